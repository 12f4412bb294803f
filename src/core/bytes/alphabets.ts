/**
 * Which Latin letters beside A to Z the languages of Europe are written with (the main letters of each in CLDR, Unicode
 * Technical Standard 35, section "Exemplars", and those of their commonest foreign words), by the code page that has them.
 */
const ALPHABETS = {
	'windows-1252': [
		'äöüßé',
		'áéíñóúüª',
		'àâæçèéêëîïôùûüÿœ',
		'àáèéìíòóùúº',
		'áàâãçéêíóôõúü',
		'àçéèíïóòúü',
		'áéíóúëïöüèê',
		'äåöéàšž',
		'æøåéòôó',
		'áðéíóúýþæö'
	],
	'windows-1250': ['ąćęłńóśźż', 'áčďéěíňóřšťúůýž', 'áäčďéíĺľňóôŕšťúýž', 'áéíóöőúüű', 'čćđšž', 'ăâîşţșț'],
	'iso-8859-2': ['ąćęłńóśźż', 'áčďéěíňóřšťúůýž', 'áäčďéíĺľňóôŕšťúýž', 'áéíóöőúüű', 'čćđšž', 'ăâîşţșț'],
	'windows-1254': ['çğıi̇öşüâîû'],
	'windows-1257': ['ąčęėįšųūž', 'āčēģīķļņšūž', 'äöõüšž']
} as const;

/** Such letters that are a word by themselves in one of the page's languages. */
const WORDS_OF_ONE: Record<keyof typeof ALPHABETS, string> = {
	'windows-1252': 'àáâèéêìíòóôùúåæøöü',
	'windows-1250': 'áéóőúí',
	'iso-8859-2': 'áéóőúí',
	'windows-1254': '',
	'windows-1257': 'į'
};

export type LatinPage = keyof typeof ALPHABETS;
export const LATIN_PAGES = Object.keys(ALPHABETS) as LatinPage[];

const HIGH = /[^\0-\x7f]/gu;
const LETTER = /\p{L}/u;
/** What may stand between letters: apostrophes, hyphens, a middle dot, a dash without blanks, points left out. */
const BETWEEN_LETTERS = /[’‘´·\u00ad–—…]/u;
/** What stands before no letter. */
const BEFORE_NONE = /[£¤¥¦¬±¹²³]/u;
/** What stands behind no letter, unless as the mark of a note. */
const BEHIND_NONE = /¹/u;

const isStrange = (sign: string, before: string, after: string): boolean =>
	(LETTER.test(after) && (BEFORE_NONE.test(sign) || (LETTER.test(before) && !BETWEEN_LETTERS.test(sign)))) ||
	(LETTER.test(before) && BEHIND_NONE.test(sign));

/**
 * Share from 0 to 1 of the letters beyond ASCII in words that one of the page's languages has, the best of them; null where
 * there are none. Each word counts once: a name can be of another language.
 */
export function alphabetShare(words: ReadonlySet<string>, page: LatinPage): number | null {
	const counts = new Map<string, number>();
	let strange = 0;
	for (const word of words)
		for (const { 0: sign, index } of word.matchAll(HIGH)) {
			const letter = sign.toLowerCase();
			if (word.length === 1 && LETTER.test(sign) && !WORDS_OF_ONE[page].includes(letter)) strange++;
			else if (LETTER.test(sign)) counts.set(letter, (counts.get(letter) ?? 0) + 1);
			else if (isStrange(sign, word[index - 1] ?? '', word[index + 1] ?? '')) strange++;
		}
	const all = strange + [...counts.values()].reduce((sum, n) => sum + n, 0);
	if (all === 0) return null;
	const fitting = ALPHABETS[page].map((letters) => [...counts].reduce((sum, [letter, n]) => sum + (letters.includes(letter) ? n : 0), 0));
	return Math.max(...fitting) / all;
}
