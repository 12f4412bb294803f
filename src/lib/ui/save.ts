/** Hands a file to the browser to be saved where the user says. */
export function saveBlob(blob: Blob, name: string): void {
	const url = URL.createObjectURL(blob);
	const link = document.createElement('a');
	link.href = url;
	link.download = name.replace(/[^\p{L}\p{N} ._-]+/gu, '_').slice(0, 120);
	link.click();
	setTimeout(() => URL.revokeObjectURL(url), 30_000);
}
