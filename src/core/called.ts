/**
 * How persons are called: up to five words, each with a capital letter or in letters that have none, short ones between
 * them ("van der"), perhaps with a word in brackets or a sign behind ("Ada (work)", "Marta 🌻").
 */
const WORD = "[\\p{Lu}\\p{Lo}][\\p{L}\\p{M}.'’-]*";
const PICTURES = '(?:\\p{Extended_Pictographic}|\\p{Emoji_Modifier}|\\u200d|\\ufe0f){1,8}';
const BEHIND = `(?:\\s?(?:\\([^()\\n]{1,20}\\)|${PICTURES}))?`;
const CALLED = new RegExp(`^${WORD}(?:\\s(?:\\p{Ll}{1,3}\\s){0,2}${WORD}){0,4}${BEHIND}$`, 'u');
/** Of two words at least, or two to four letters of a script without capitals. */
const FULL = new RegExp(`^${WORD}\\s|^\\p{Lo}{2,4}$`, 'u');

const IN_PICTURES = new RegExp(`^${PICTURES}$`, 'u');

/** As lists are sorted: the family's name, a comma, and the rest ("van der Berg, Ada"). */
const SURNAME_FIRST = new RegExp(`^(?:\\p{Ll}{1,3}\\s){0,2}${WORD}(?:\\s${WORD})?,\\s${WORD}(?:\\s${WORD}){0,2}${BEHIND}$`, 'u');

export const isSurnameFirst = (text: string): boolean => SURNAME_FIRST.test(text);
export const isCalled = (text: string): boolean => CALLED.test(text) || isSurnameFirst(text);
export const isFullName = (text: string): boolean => (FULL.test(text) && CALLED.test(text)) || isSurnameFirst(text);

/** Whether somebody is called by pictures alone. */
export const isPictures = (text: string): boolean => IN_PICTURES.test(text);
