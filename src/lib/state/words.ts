/** Words as they are looked for: however they are written, in what is left of a text. */
import type { Message } from '$core/weave';

export const bare = (text: string): string => text.trim().toLocaleLowerCase();

/** Whether a message has these words (as `bare` gives them). */
export const hasWords = ({ text, textRest }: Pick<Message, 'text' | 'textRest'>, words: string): boolean =>
	[text, textRest?.text].some((part) => part?.toLocaleLowerCase().includes(words));
