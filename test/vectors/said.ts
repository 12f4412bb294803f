/** Who writes in stores made for one test, and what. */
export const HOUR = 3_600_000;
/** ms UTC of the first message. */
export const START = Date.UTC(2025, 0, 14, 6);
export const OWN = '+447946000001';
export const NAMES = ['Odile Marchetti', 'Tamsin Okafor', 'Bram Vesterholt'];
export const number = (i: number): string => `+4477009001${10 + i * 7}`;
const WORDS = ['The boiler is off', 'Who has the key', 'I come at noon', 'They want the rent', 'Nobody came to look'];
export const said = (i: number): string => `${WORDS[i % 5]!}${i % 4 === 1 ? ', and it is cold' : ''}, ${i}`;
