/** Words and signs by which programs say that a message was sent or received, in many languages. */

/** Values that say which way (3GPP TS 23.040 has submit and deliver, mobile originated and terminated): of the program's words those that only sent messages have, and only received ones. */
export const saysWay = (value: string): boolean => isOutWord(value) || isInWord(value);
const OUT_WORD =
	/^(out|right|outgoing|outbound|sent|send|sending|delivered|queued|me|mine|self|o|s|tx|from_me|outbox|->|>|>>|→|⇒|»|↗|to|mo|submit|submitted|snd|originated|aus|uit|salida|sa[íi]da|uscita|sortie)$/i;
const IN_WORD =
	/^(in|left|incoming|inbound|inbox|received|recv|receive|them|other|i|r|rx|to_me|<-|<|<<|←|⇐|«|↙|from|mt|deliver|rcv|rcvd|terminated|ein|entrada|entrata|entr[ée]e)$/i;
/** How words for sent and received begin in many languages: exports say it in that of their program. */
const OUT_BEGINS =
	/^(gesend|ausg|abgeh|envoy|sortant|envia|salien|inviat|in uscita|uscent|verz[eo]nd|uitg|wys[łl]a|wychodz|skicka|utg[åa]|sendt|udg|l[äa]htev|l[äa]hete|odesl|odchoz|trimis|elk[üu]ld|kimen|giden|g[öo]nderil|исход|отправ|вихідн|надісл|εξερχ|απεστ|发送|已发送|已傳送|寄出|送信|발신|보낸|보냄|صادر|مرسل|נשלח|יוצא|भेज)/iu;
const IN_BEGINS =
	/^(eing|empfang|erhalt|ankomm|re[çc]u|entrant|recib|ricevut|in entrata|receb|ontvang|inkom|odebr|przych|mottag|mottatt|inkomm|modtag|indg|saapu|vastaan|p[řr]ijat|p[řr][íi]choz|primit|[ée]rkez|bej[öo]v|gelen|al[ıi]nd|вход|получ|вхідн|отрим|εισερχ|ελήφ|接收|收到|已收|受信|수신|받은|받음|وارد|مستلم|התקבל|נכנס|प्राप्त)/iu;
const LONGEST_WORD = 24;
export const isOutWord = (value: string): boolean => OUT_WORD.test(value) || (value.length <= LONGEST_WORD && OUT_BEGINS.test(value));
export const isInWord = (value: string): boolean => IN_WORD.test(value) || (value.length <= LONGEST_WORD && IN_BEGINS.test(value));

/** How flags of which one value is sent are called: one's own, and in other languages by the words above. */
const OUT_NAME =
	/(from_?me|mine|outgoing|outbound|is_?sent|is_?out|is_?me$|is_?owner$|^own$|^self$|by_?me|is_?mine|is_?self|is_?sender|is_?author|^out$|^me$)/i;
const OWN_NAME =
	/^(?:ist?_?|est_?|es_?|è_?)?(?:eigen|selbst|von_?mir|mein|propri|propi|mi[ao]s?$|de_?moi|de_?m[ií]$|di_?me|por_?m[ií]$|eget|egen|egna|w[łl]asn|moj|ode_?mnie|сво|мо[йяеё]|от_?меня|自分|本人|我发)/iu;
const IN_NAME = /(incoming|is_?in$|received|inbound|^in$)/i;

/** The way that a flag's name says its higher value means; null where it says none. */
export function wayNamed(name: string): 'out' | 'in' | null {
	if (OUT_NAME.test(name) || OWN_NAME.test(name) || OUT_BEGINS.test(name)) return 'out';
	return IN_NAME.test(name) || IN_BEGINS.test(name) ? 'in' : null;
}

const OUT_BOX =
	/sent|outbox|outgoing|^out|_out|gesend|postausg|envoy|enviad|inviat|verz[eo]nd|wys[łl]an|skicka|отправ|исход|发件|已发|送信/i;
const IN_BOX =
	/inbox|received|incoming|^in_|_in$|recv|posteing|empfang|re[çc]us?$|recibid|ricevut|recebid|ontvang|odebr|mottag|inkom|полученн|входящ|收件|受信/i;
/** Of a file nothing but its name says it: that must be the box's, and no more than what lies in it. */
const BOX_ALONE = /^[\p{L}_]+(?:[\s_-](?:messages?|texts?|sms|mms|items?|nachrichten|mensajes|messaggi|berichten))?$/iu;

/** The way that the name of a table, a list or a box says of all that is in it. */
export const wayOfBox = (name: string): 'out' | 'in' | null => (OUT_BOX.test(name) ? 'out' : IN_BOX.test(name) ? 'in' : null);
/** The same of a file's name. */
export const wayOfFile = (name: string): 'out' | 'in' | null => (BOX_ALONE.test(name) && !BEGINS_SO.test(name) ? wayOfBox(name) : null);
/** Words that begin as those of a box do, or end so, and are none. */
const BEGINS_SO = /^out(?!box|going)|\p{L}sent/iu;
