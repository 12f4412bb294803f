/** Words and signs by which programs say that a message was sent or received, in many languages. */

/** Values that say which way: of the program's words those that only sent messages have, and only received ones. */
export const saysWay = (value: string): boolean => isOutWord(value) || isInWord(value);
const OUT_WORD = /^(out|outgoing|outbound|sent|send|sending|delivered|queued|me|mine|self|o|s|tx|from_me|outbox|->|>|>>|→|⇒|»|↗|to)$/i;
const IN_WORD = /^(in|incoming|inbound|inbox|received|recv|receive|them|other|i|r|rx|to_me|<-|<|<<|←|⇐|«|↙|from)$/i;
/** How words for sent and received begin in many languages: exports say it in that of their program. */
const OUT_BEGINS =
	/^(gesend|ausg|abgeh|envoy|sortant|envia|salien|inviat|in uscita|uscent|verz[eo]nd|uitg|wys[łl]a|wychodz|skicka|utg[åa]|sendt|udg|l[äa]htev|l[äa]hete|odesl|odchoz|trimis|elk[üu]ld|kimen|giden|g[öo]nderil|исход|отправ|вихідн|надісл|εξερχ|απεστ|发送|已发送|已傳送|寄出|送信|발신|보낸|보냄|صادر|مرسل|נשלח|יוצא|भेज)/iu;
const IN_BEGINS =
	/^(eing|empfang|erhalt|ankomm|re[çc]u|entrant|recib|ricevut|in entrata|receb|ontvang|inkom|odebr|przych|mottag|mottatt|inkomm|modtag|indg|saapu|vastaan|p[řr]ijat|p[řr][íi]choz|primit|[ée]rkez|bej[öo]v|gelen|al[ıi]nd|вход|получ|вхідн|отрим|εισερχ|ελήφ|接收|收到|已收|受信|수신|받은|받음|وارد|مستلم|התקבל|נכנס|प्राप्त)/iu;
const LONGEST_WORD = 24;
export const isOutWord = (value: string): boolean => OUT_WORD.test(value) || (value.length <= LONGEST_WORD && OUT_BEGINS.test(value));
export const isInWord = (value: string): boolean => IN_WORD.test(value) || (value.length <= LONGEST_WORD && IN_BEGINS.test(value));
