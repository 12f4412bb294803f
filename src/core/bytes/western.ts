/**
 * Windows-1252 (WHATWG Encoding, index windows-1252). Some hosts decode it as Latin-1, which has controls where it has
 * quotes, dashes and the euro; no text that people wrote has those controls.
 */
const LETTERS = '€\x81‚ƒ„…†‡ˆ‰Š‹Œ\x8dŽ\x8f\x90‘’“”•–—˜™š›œ\x9džŸ';
const FIRST = 0x80;

/** The letters that Windows-1252 has in place of the controls of Latin-1. */
export const westernLetters = (text: string): string => text.replace(/[\x80-\x9f]/g, (c) => LETTERS[c.charCodeAt(0) - FIRST]!);

const western = new TextDecoder('windows-1252');

/** The text of bytes in Windows-1252. */
export const decodeWestern = (bytes: Uint8Array): string => westernLetters(western.decode(bytes));
