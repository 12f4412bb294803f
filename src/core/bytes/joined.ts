/** Parts as one run of bytes; a single one is given as it is. */
export function joined(parts: readonly Uint8Array[]): Uint8Array {
	if (parts.length === 1) return parts[0]!;
	const whole = new Uint8Array(parts.reduce((length, part) => length + part.length, 0));
	let at = 0;
	for (const part of parts) {
		whole.set(part, at);
		at += part.length;
	}
	return whole;
}
