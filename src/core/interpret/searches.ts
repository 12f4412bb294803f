/** Lists of what somebody sought: two words there are written as a name is, and nothing refers to them. */
import { addressShare } from './columns';
import type { Sheet } from './sheet';

const SOUGHT_NAMED = /^(?:search(?:ed)?_?)?(?:quer(?:y|ies)|terms?|keywords?|search(?:es|ed)?|sought)(?:_?(?:text|string))?$/i;
const COLUMNS_AT_MOST = 5;

export const listsSearches = ({ columns }: Sheet): boolean =>
	columns.length <= COLUMNS_AT_MOST &&
	columns.some((c) => SOUGHT_NAMED.test(c.name)) &&
	!columns.some((c) => addressShare(c) > 0.4 || c.profile.json > 0);
