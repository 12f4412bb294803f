/** What columns of who wrote, and of those to whom, are called in many languages. */
export const FROM_WHOM =
	/from|send|aut(h?or|eur)|writer|src|origin|\bby\b|^(von|de|da|van|od|fra|från)$|absend|exp[ée]d|remit|mittent|afzend|nadawc|avs[äe]nd|l[äa]hett|отправ|発信|发件|보낸/i;
export const TO_WHOM =
	/^z?to_?(?:id|jid|uid|user|addr|num|phone|contact|party)|^(to|recip|dest|an|para|à|aan|til|till)\b|[._-]to$|recip|dest|dst|empf[äa]e?ng|ontvang|odbiorc|mottag|vastaan|получат|收件|受信|받는/i;
