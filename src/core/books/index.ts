/** Which of the files of a case are address books. */
export { cardsIn, readBooks } from './find';
export { cardsOfSheet } from './sheets';
