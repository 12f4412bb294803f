/** Made-up correspondence: who, what, when, which way. The same story can be stored in any layout. */
import { Random } from './random';

export interface StoryPerson {
	id: number;
	name: string;
	number: string;
	handle: string;
}

export interface StoryMessage {
	id: number;
	/** Index of the conversation. */
	talk: number;
	/** The writer: a person's id, 0 for the owner. */
	writer: number;
	text: string;
	/** ms UTC, whole seconds. */
	at: number;
	guid: string;
}

export interface Talk {
	id: number;
	title: string | null;
	members: number[];
	guid: string;
}

export interface Story {
	people: StoryPerson[];
	talks: Talk[];
	messages: StoryMessage[];
	owner: { number: string; name: string; handle: string };
}

const FIRST = [
	'Odile',
	'Tamsin',
	'Bram',
	'Noor',
	'Wen',
	'Yusuf',
	'Ilse',
	'Corin',
	'Maud',
	'Petra',
	'Anselm',
	'Birgit',
	'Jory',
	'Sabela',
	'Edda',
	'Lorcan'
];
const LAST = [
	'Marchetti',
	'Okafor',
	'Vesterholt',
	'Khatib',
	'Demirkan',
	'Tolland',
	'Brask',
	'Ferreol',
	'Quill',
	'Aldous',
	'Nyberg',
	'Castellan'
];
const WORDS =
	'the boiler room is cold again and nobody told us when it will be repaired so please ask about January charge because board meets on Thursday at seven in hall bring keys for cellar door meter shows wrong number since last week thanks for letting me know see you there maybe later I will call tomorrow morning after work'.split(
		' '
	);
const SCRIPTS = [
	'七点半在锅炉房见',
	'请把照片发给我，谢谢',
	'سأرسل لك الفاتورة غداً',
	'هل التدفئة تعمل الآن؟',
	'Встретимся у подъезда в восемь',
	'Η θέρμανση δουλεύει πάλι',
	'くだらない請求書ですね',
	'Ça marche à nouveau, merci ! 👍',
	'ok 👍🏽',
	'🙂',
	'Größe prüfen, bitte'
];

function sentence(r: Random, n: number): string {
	if (r.chance(0.08)) return `${r.pick(SCRIPTS)} ${n}`;
	if (r.chance(0.06)) return r.pick(['ok', 'yes', 'no', 'thanks', 'see you', '?', '7']);
	const words = Array.from({ length: r.int(2, r.chance(0.1) ? 60 : 16) }, () => r.pick(WORDS));
	const text = words.join(' ');
	return `${text[0]!.toUpperCase()}${text.slice(1)}${r.pick(['.', '', '?', '!', ''])} ${n}`;
}

export function makeStory(seed: number, options: { messages: number; people?: number; groups?: number; longTexts?: boolean }): Story {
	const r = new Random(seed);
	const people = Array.from({ length: options.people ?? 8 }, (_, i): StoryPerson => {
		const name = `${r.pick(FIRST)} ${r.pick(LAST)}`;
		return {
			id: i + 1,
			name,
			number: `+44770090${String(100 + i * 7 + (seed % 7)).padStart(4, '0')}`,
			handle: `${name.toLowerCase().replace(/\W/g, '.')}${i}@plant.example`
		};
	});
	const talks: Talk[] = people.map((p, i) => ({ id: i + 1, title: null, members: [p.id], guid: r.hex(32) }));
	for (let g = 0; g < (options.groups ?? 2); g++)
		talks.push({
			id: talks.length + 1,
			title: r.pick(['Stairwell', 'Plant desk', 'Board', 'Garden']) + ` ${g}`,
			members: [1 + (g % people.length), 1 + ((g + 2) % people.length), 1 + ((g + 5) % people.length)],
			guid: r.hex(32)
		});
	const messages: StoryMessage[] = [];
	let at = Date.UTC(2024, 2, 1) + r.int(0, 86_400) * 1000;
	let talk = 0;
	for (let i = 1; i <= options.messages; i++) {
		at += r.int(20, 14_000) * 1000;
		if (r.chance(0.4)) talk = r.int(0, talks.length - 1);
		const t = talks[talk]!;
		// The last person of the list only ever writes and is never answered.
		const silent = t.members.length === 1 && t.members[0] === people.length;
		const writer = !silent && r.chance(0.45) ? 0 : r.pick(t.members);
		let text = sentence(r, i);
		if (options.longTexts && r.chance(0.05)) text = Array.from({ length: r.int(10, 120) }, (_, k) => sentence(r, i * 1000 + k)).join('\n');
		messages.push({ id: i, talk, writer, text, at, guid: `${r.hex(8)}-${r.hex(4)}-4${r.hex(3)}-a${r.hex(3)}-${r.hex(12)}`.toUpperCase() });
	}
	return { people, talks, messages, owner: { number: '+447700900999', name: 'Piet Hallorann', handle: 'piet.h@plant.example' } };
}
