/** What to see to before anything else, so that nothing is made worse. Ticked off by the user. */
export const WARNINGS = [
	{ id: 'phone-unused', says: 'The phone is in flight mode and nobody uses it.' },
	{ id: 'no-sync', says: 'No backup or sync runs until this is done.' },
	{ id: 'copy-first', says: 'A copy is made before any step that erases.' },
	{ id: 'no-unplug', says: 'Nothing is unplugged during a read.' },
	{ id: 'agreed', says: 'The owner has agreed in writing.' }
] as const;
export type WarningId = (typeof WARNINGS)[number]['id'];
