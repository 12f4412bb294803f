/** Whether a thread is one that was asked for: by name, or by number however it is written. */
export interface Named {
	title: string;
	address: string | null;
	group: boolean;
	members: { address: string | null; name: string | null }[];
}

const bare = (text: string): string => text.trim().toLocaleLowerCase();
const digits = (text: string): string => text.replace(/\D/g, '').replace(/^0+/, '');
/** Digits that two writings of one number share at least, from the end. */
const TAIL = 9;

export function isWith(thread: Named, partners: readonly string[]): boolean {
	const names = [thread.title, thread.address, ...(thread.group ? [] : thread.members.flatMap((m) => [m.name, m.address]))].filter(
		(n): n is string => n !== null
	);
	return partners.some((partner) => {
		const number = digits(partner);
		return names.some((n) => bare(n).includes(bare(partner)) || (number.length >= 6 && digits(n).endsWith(number.slice(-TAIL))));
	});
}
