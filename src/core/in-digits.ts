/** Days and times of day written in digits, which can pass for numbers of telephones. */
const YEAR = '(?:19|20)?\\d\\d';
const MONTH = '(?:0?[1-9]|1[0-2])';
const DAY = '(?:0?[1-9]|[12]\\d|3[01])';
/** Year, month and day, or day and month in either order before the year. */
const DATE = `(?:${YEAR}[-./]${MONTH}[-./]${DAY}|${DAY}[-./]${DAY}[-./]${YEAR})`;
const CLOCK = '(?:[01]?\\d|2[0-3])[.:][0-5]\\d(?:[.:][0-5]\\d)?';

const IS_DATE = new RegExp(`^${DATE}$`);
const IS_WHEN = new RegExp(`^(?:${DATE}(?:[\\sT,]+${CLOCK})?|${CLOCK})$`);

export const isDateInDigits = (text: string): boolean => IS_DATE.test(text);
/** A date, a time of day, or both. */
export const isWhenInDigits = (text: string): boolean => IS_WHEN.test(text);
