const ADDRESS = '\\+?\\d[\\d\\s.()/-]{4,18}\\d|[^\\s@<>()]+@[^\\s@<>()]+\\.\\w+';
/** A name and an address of the same person in one value (RFC 5322, section 3.4 "name-addr", and as numbers are written). */
const NAME_AND_ADDRESS = new RegExp(`^\\s*["']?(\\p{L}[^"'<>()[\\]]*?)["']?\\s*[<([]\\s*(${ADDRESS})\\s*[>)\\]]\\s*$`, 'u');
const ADDRESS_ALONE = new RegExp(`^\\s*(?:${ADDRESS})\\s*$`, 'u');

/** Both apart, or null where a value is written otherwise. */
export function nameAndAddress(value: string): { name: string; address: string } | null {
	const [, name, address] = NAME_AND_ADDRESS.exec(value) ?? [];
	return name !== undefined && address !== undefined ? { name: name.trim(), address: address.trim() } : null;
}

export const isAddressAlone = (value: string): boolean => ADDRESS_ALONE.test(value);
