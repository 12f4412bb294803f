/** What the headings of address books' columns, and the keys of their entries, say: in the languages such lists come in. */
export type Heading = 'name' | 'given' | 'middle' | 'family' | 'organisation' | 'address' | 'aside';

const words = (list: string): RegExp => new RegExp(`^(?:${list})$`, 'iu');
/** In order: what is asked first wins. */
const HEADINGS: readonly (readonly [Heading, RegExp])[] = [
	[
		'given',
		words(
			'(?:given|first|fore)[\\s_-]?names?|first|given|vorname|rufname|pr[ée]noms?|voornaam|f[öo]rnamn|fornavn|etunimi|imi[ęe]|имя|ім.я|名|名字|keresztn[ée]v|jm[ée]no|meno|ad[ıi]?|όνομα|שם פרטי|الاسم الأول|nombre|nome|nombres'
		)
	],
	[
		'family',
		words(
			'(?:last|family|sur)[\\s_-]?names?|last|family|surname|nachname|familienname|zuname|nom|nom de famille|apellidos?|cognome|sobrenome|achternaam|familienaam|efternamn|etternavn|efternavn|sukunimi|nazwisko|фамилия|прізвище|姓|vezet[ée]kn[ée]v|p[řr][íi]jmen[íi]|priezvisko|soyad[ıi]?|επώνυμο|שם משפחה|اسم العائلة'
		)
	],
	[
		'middle',
		words(
			'(?:middle|additional|second|other)[\\s_-]?names?|middle|additional|(?:zweiter?|weiterer?) vornamen?|(?:deuxi[èe]me|autres?|second) pr[ée]noms?|(?:segundo|otro)s? nombres?|segundo nome|secondo nome|altri nomi|tweede (?:voor)?naam|mellannamn|mellemnavn|mellomnavn|toinen nimi|drugie imi[ęe]|druh[ée] jm[ée]no|второе имя|отчество|по батькові|ikinci ad[ıi]?'
		)
	],
	[
		'organisation',
		words(
			'(?:company|organi[sz]ation|firma?|unternehmen|soci[ée]t[ée]|entreprise|empresa|azienda|societ[àa]|bedrijf|f[öo]retag|компания|организация|公司|会社)(?:[\\s_-]?(?:name|\\d+.*))?|org'
		)
	],
	[
		'name',
		words(
			'(?:(?:full|display|formatted|contact|file)[\\s_-]?)?names?|name \\d|fn|contact|kontakt|person|who|wer|qui|anzeigename|nom complet|nombre completo|nome completo|naam|namn|navn|nimi|n[ée]v|фио|имя и фамилия|姓名|名前|氏名|이름|성명|الاسم|שם'
		)
	],
	[
		'aside',
		/\btypes?\b|\blabels?\b|not(?:e|es|iz|izen)$|remark|comment|street|city|town|country|postal|\bzip\b|time\s?stamp|^date$|^time$|stra(?:ß|ss)e|\bort\b|land$|group|categor|gruppe|birth|geburt|department|abteilung|job|position|\btitle\b|titel|prefix|suffix|photo|picture|web|url|gender|language|zone|location|initials|phonetic|yomi/iu
	],
	[
		'address',
		/e-?mail|courriel|correo|correio|posta|mejl|почта|邮箱|メール|이메일|phone|mobil|number|\btel|t[ée]l[ée]f|telef|portable|m[óo]vil|celular|cell|handy|номер|телефон|手机|电话|電話|携帯|전화|هاتف|טלפון|handle|user|nick|login|account|address|chat|\bim\b|instant|messenger/iu
	]
];

/** Keys of entries are written in one word: `firstName`, `given_name`. */
const spaced = (text: string): string =>
	text
		.replace(/([\p{Ll}\d])(\p{Lu})/gu, '$1 $2')
		.replace(/[_.]+/g, ' ')
		.trim();

export function headingOf(text: string): Heading | null {
	const form = spaced(text.trim());
	return HEADINGS.find(([, says]) => says.test(form))?.[0] ?? null;
}
