/** SHA256SUMS as the ordinary command reads it: 64 hex digits, two blanks, the name. */
export const SUMS_NAME = 'SHA256SUMS';

export const sumsFile = (files: readonly { name: string; sha256: string }[]): string =>
	files.map((f) => `${f.sha256}  ${f.name}\n`).join('');
