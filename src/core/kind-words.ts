/**
 * What the names of tables and columns say of their rows: words for messages, for those who write and are written to, and
 * for things that are no messages though they have texts and times. A name is some help and never proof.
 */

const anywhere = (...parts: string[]): RegExp => new RegExp(parts.join('|'), 'iu');
/** As a whole word between other letters than `a` to `z`, with an ending of the plural. */
const asWord = (...words: string[]): RegExp => new RegExp(`(?:^|[^a-z])(?:${words.join('|')})(?:e?s)?(?:[^a-z]|$)`, 'i');
const either =
	(...tests: RegExp[]) =>
	(name: string): boolean => {
		const words = inWords(name);
		return tests.some((test) => test.test(words));
	};

/** A name's words apart: `senderAddress` is `sender_address`. */
const inWords = (name: string): string => name.replace(/([\p{Ll}\d])(\p{Lu})/gu, '$1_$2').toLowerCase();

export const speaksOfMessages = either(
	asWord('msg', 'sms', 'mms', 'im', 'jid', 'convo?', 'whisper', 'utterances?', 'shout'),
	anywhere('messag', 'chat', 'convers', 'dialog', 'talk', 'letter', 'correspond', 'inbox', 'outbox', 'discuss'),
	anywhere(
		'mensa[jg]',
		'mesaj',
		'nachricht',
		'mitteil',
		'konvers',
		'gespr[aä]ch',
		'postein',
		'postaus',
		'berichten',
		'keskustel',
		'viesti'
	),
	anywhere('beskeder', 'meddeland', 'melding', 'wiadomo', 'zpr[aá]v', '[uü]zenet', 'μ[ηή]ν[υύ]μ', 'сообщ', 'повідом'),
	anywhere('消息', '短信', '讯息', '訊息', 'メッセージ', '메시지', 'رسال', 'הודע')
);

export const speaksOfParties = either(
	/^(?:channel|from|to|who|whom|other)(?:[_\s]?(?:id|me|user|addr(?:ess)?|number|name|who))?$/,
	asWord('(?:sent|written|is)[_\\s]?(?:to|from|by)', 'speaker', 'said', 'frm', 'chan', 'party'),
	anywhere(
		'sender',
		'recip',
		'receiver',
		'addressee',
		'thread',
		'room',
		'peer',
		'buddy',
		'handle',
		'particip',
		'partner',
		'repl(?:y|ied)',
		'quoted'
	),
	anywhere(
		'absend',
		'empf[aä]ng',
		'remitent',
		'remetent',
		'destinat',
		'exp[eé]dit',
		'mittent',
		'afzend',
		'ontvang',
		'отправ',
		'получ',
		'发送',
		'接收'
	)
);

/** What messages have as well as much else. */
export const speaksOfSomebody = either(
	asWord('by', 'text', 'words', 'mine', 'body'),
	anywhere(
		'author',
		'contact',
		'kontakt',
		'group',
		'person',
		'people',
		'member',
		'user',
		'caller',
		'number',
		'phone',
		'notif',
		'post',
		'mail'
	)
);

export const speaksOfPersons = either(
	asWord('friends?', 'budd(?:y|ies)', 'handle', 'party', 'folks?', 'agenda', 'amis?'),
	anywhere(
		'contact',
		'kontakt',
		'person',
		'people',
		'roster',
		'address_?book',
		'v?cards?$',
		'member',
		'particip',
		'user',
		'adress',
		'amigo',
		'rubrica'
	),
	anywhere('контакт', '联系人', '連絡先', '연락처')
);

/** Things with texts and times, and what they are made of. */
export const speaksOfOthers = either(
	// Notes and documents.
	asWord('z?note', 'notebook', 'memo', 'folder', 'heading', 'document', 'revision', 'editor', 'notiz', 'ordner', 'title', 'name'),
	// Appointments and tasks.
	asWord(
		'calendar',
		'event',
		'appointment',
		'all_?day',
		'dt_?start',
		'attendee',
		'organi[sz]er',
		'reminder',
		'todo',
		'task',
		'due(?:_date)?'
	),
	asWord(
		'completed',
		'checked',
		'done',
		'assign(?:ed|ee)?',
		'starts?',
		'ends?',
		'dt_?end',
		'begins?',
		'location',
		'summary',
		'kalender',
		'termin',
		'aufgabe'
	),
	// What is read, heard and seen.
	asWord('headline', 'byline', 'article', 'episode', 'feed', 'podcast', 'artist', 'album', 'genre', 'track', 'song', 'recording'),
	asWord(
		'highlight',
		'annotation',
		'passage',
		'page',
		'book',
		'photo',
		'asset',
		'caption',
		'camera',
		'score',
		'points',
		'level',
		'match',
		'round',
		'played',
		'player'
	),
	// The web, and what was searched for or copied.
	asWord('url', 'link', 'visit', 'hit', 'bookmark', 'query', 'queries', 'search', 'searched', 'term', 'clip(?:board)?', 'copied'),
	// Money, parcels, recipes, journeys.
	asWord(
		'amount',
		'cents',
		'currency',
		'payee',
		'balance',
		'transaction_?',
		'booking',
		'order',
		'parcel',
		'shipment',
		'delivery',
		'tracking'
	),
	asWord('carrier', 'recipe', 'dish', 'ingredient', 'serving', 'lat(?:itude)?', 'lon(?:gitude)?', 'lng', 'place', 'address', 'route'),
	// Words and languages.
	asWord('locale', 'lang', 'language', 'frequency', 'lexicon', 'dictionary', 'phrase', 'phrasebook', 'translat(?:ion|ed)'),
	// A program's own: its log, its networks, its accounts.
	asWord('severity', 'pid', 'tid', 'module', 'component', 'tag', 'logger', 'trace', 'log', 'logged', 'diagnostic', 'ssid', 'mac', 'rssi'),
	asWord('password', 'secret', 'credential', 'login')
);

/** Further names that say something in English, and nothing of messages or the like. */
const speaksOfAnything = either(
	asWord(
		'id',
		'key',
		'at',
		'ts',
		'date',
		'day',
		'when',
		'made',
		'hash',
		'count',
		'size',
		'file',
		'path',
		'value',
		'data',
		'item',
		'entry',
		'row'
	),
	anywhere('time', 'stamp', 'creat', 'sent', 'read', 'type', 'kind', 'stat', 'flag', 'content', 'updat', 'delet', 'mime', 'media', 'attach')
);

/** Whether a name is a word that is known here. */
export const speaks = (name: string): boolean =>
	[speaksOfMessages, speaksOfParties, speaksOfSomebody, speaksOfPersons, speaksOfOthers, speaksOfAnything].some((says) => says(name));

/** How grave what happened is, as programs say it in their logs. */
export const isLevel = (word: string): boolean =>
	/^(?:trace|debug|verbose|info|notice|warn(?:ing)?|error|fatal|critical|severe|fine)$/i.test(word);
