/** A size for people: 4.1 MB. */
export function sizeWords(bytes: number): string {
	if (bytes < 1000) return `${bytes} B`;
	const units = ['kB', 'MB', 'GB', 'TB'];
	let value = bytes / 1000;
	let unit = 0;
	while (value >= 999.5 && unit < units.length - 1) {
		value /= 1000;
		unit++;
	}
	return `${value < 10 ? value.toFixed(1) : Math.round(value)} ${units[unit]}`;
}
