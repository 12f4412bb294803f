/** What an exported conversation is called: by its file, or by the archive or folder it lies in where the file's name says only that it is one. */
const OF_ANY =
	'chat|chats|conversation|conversations|messages?|history|log|export|text|texts|verlauf|chatverlauf|discussion|mensajes|conversa';
/** A name that any conversation has. */
const ANY = new RegExp(`^[\\s_-]*(?:${OF_ANY})(?:[\\s_-]*(?:${OF_ANY}|\\d{1,3}))?[\\s_-]*$`, 'i');
/** What stands before whom it is with, and behind. */
const BEFORE = new RegExp(`^[\\s_-]*(?:(?:${OF_ANY})[\\s_-]+)+(?:(?:with|mit|avec|con|com|met|med)[\\s_-]+|-[\\s_-]*)?(?=\\S)`, 'i');
const BEHIND = new RegExp(`[\\s_-]*[([](?:${OF_ANY}|\\d{1,3})[)\\]]$`, 'i');
const ARCHIVE = /(?:\.(?:zip|tar|tgz|gz|bz2|xz|zst|7z|age|enc))+$/i;

/** `name`: the file's, without its ending; `path`: where it lies. */
export function conversationName(name: string, path: string | undefined): string {
	if (!ANY.test(name)) return name;
	const within = (path ?? '').split('/').at(-2) ?? '';
	const around = within.replace(ARCHIVE, '');
	const called = around.replace(BEHIND, '').replace(BEFORE, '').replace(/_/g, ' ').trim();
	// A folder can be called after anything.
	const isTold = around !== within || called !== around;
	return isTold && /\p{L}{2}/u.test(called) && !ANY.test(called) ? called : name;
}

/** Whether a file is called a conversation, and it or the archive it lies in says with whom: one message is enough then. */
export const isCalledConversation = (name: string, path: string | undefined): boolean =>
	ANY.test(name) ? conversationName(name, path) !== name : BEFORE.test(name) || BEHIND.test(name);
