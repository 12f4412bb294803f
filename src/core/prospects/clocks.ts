/** Clocks that run: what empties, is replaced or overwritten, and when; as dates, the most urgent first. */
import ICAL from 'ical.js';
import { offsetAt } from '../zones';
import type { Ranked } from './places';

const DAY = 86_400_000;

export interface Clock {
	placeId: string;
	/** What happens, as a sentence without its date. */
	says: string;
	/** ms UTC; null where it happens with the next event, not on a date. */
	at: number | null;
	/** Whole days left; null where there is no date. Never below 0. */
	daysLeft: number | null;
}

export function clocksOf(ranked: readonly Ranked[], today: number): Clock[] {
	const clocks: Clock[] = [];
	for (const { place, kind, verdict } of ranked) {
		if (verdict.can === 'cannot' || place.tried) continue;
		const name = place.name || kind.name;
		if (verdict.until !== null && verdict.until >= today) {
			const says =
				kind.holds === 'bin'
					? `${name}: it empties`
					: kind.holds === 'rolling'
						? `${name}: the last copy from before the loss is replaced`
						: `${name}: what it keeps runs out`;
			clocks.push({ placeId: place.id, says, at: verdict.until, daysLeft: Math.floor((verdict.until - today) / DAY) });
		} else if (kind.id === 'computer-backup')
			clocks.push({ placeId: place.id, says: `${name}: the next sync may replace it`, at: null, daysLeft: null });
		else if (kind.holds === 'residue' && place.source === null)
			clocks.push({ placeId: place.id, says: `${name}: every use writes over it`, at: null, daysLeft: null });
	}
	return clocks.sort((a, b) => (a.at ?? Infinity) - (b.at ?? Infinity));
}

/** The dated clocks as a calendar (RFC 5545): an all-day event on the last day, with a reminder two days before. */
export function calendarOf(clocks: readonly Clock[], caseName: string, today: number, zone: string): string {
	const calendar = new ICAL.Component(['vcalendar', [], []]);
	calendar.updatePropertyWithValue('version', '2.0');
	calendar.updatePropertyWithValue('prodid', '-//Ombudsman//clocks//EN');
	for (const clock of clocks) {
		if (clock.at === null) continue;
		const event = new ICAL.Component('vevent');
		event.updatePropertyWithValue('uid', `${clock.placeId}-${Math.floor(clock.at / DAY)}@ombudsman.invalid`);
		event.updatePropertyWithValue('dtstamp', ICAL.Time.fromJSDate(new Date(today), true));
		event.updatePropertyWithValue('dtstart', ICAL.Time.fromDateString(dayIn(zone, clock.at)));
		event.updatePropertyWithValue('summary', `${clock.says} (${caseName})`);
		const alarm = new ICAL.Component('valarm');
		alarm.updatePropertyWithValue('action', 'DISPLAY');
		alarm.updatePropertyWithValue('description', clock.says);
		alarm.updatePropertyWithValue('trigger', ICAL.Duration.fromString('-P2D'));
		event.addSubcomponent(alarm);
		calendar.addSubcomponent(event);
	}
	return `${calendar.toString()}\r\n`;
}

/** The calendar day of an instant in a zone, as YYYY-MM-DD. */
const dayIn = (zone: string, at: number): string => new Date(at + offsetAt(at, zone)).toISOString().slice(0, 10);
