/**
 * How elements are parsed: values as they are written. Entities of a document type's own are never resolved; XML's five and
 * its numbers for letters are, once each.
 */
import { decodeXML } from 'entities';
import type { X2jOptions } from 'fast-xml-parser';

export const PLAIN_XML: X2jOptions = {
	ignoreAttributes: false,
	parseTagValue: false,
	parseAttributeValue: false,
	processEntities: false,
	tagValueProcessor: (_, text) => decodeXML(text),
	attributeValueProcessor: (_, text) => decodeXML(text)
};
