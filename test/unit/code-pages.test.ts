/** Texts in the code pages of before Unicode: told by their letters, read whole, sighted at their own bytes, and said. */
import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { codePageOf, decodeCodePage, MemorySource, sizeInCodePage, type CodePage } from '../../src/core/bytes';
import { Look } from '../../src/core/look';
import { describeNote } from '../../src/core/wording';

/** Letters in one byte and in two, as the host's decoder has them. */
function encoderOf(page: CodePage): (text: string) => Uint8Array {
	const bytes = new Map<string, number[]>();
	const learn = (...of: number[]): void => {
		const letter = decodeCodePage(Uint8Array.from(of), page);
		if ([...letter].length === 1 && letter !== '\ufffd' && !bytes.has(letter)) bytes.set(letter, of);
	};
	for (let one = 0; one < 256; one++) learn(one);
	for (let lead = 0x81; lead < 0xff; lead++) for (let trail = 0x40; trail < 0xff; trail++) learn(lead, trail);
	return (text) => Uint8Array.from([...text].flatMap((letter) => bytes.get(letter) ?? assert.fail(`${letter} in ${page}`)));
}

const TALKS: readonly [CodePage, readonly [string, string], readonly string[]][] = [
	['windows-1251', ['Катя Волкова', 'Иво Петров'], ['ключ под горшком, принеси суп', 'отопление сломано, позвони']],
	['koi8-r', ['Катя Волкова', 'Иво Петров'], ['ключ под горшком, принеси суп', 'отопление сломано, позвони']],
	['windows-1250', ['Łucja Wrona', 'Piet Dragan'], ['klucz jest pod doniczką', 'przynieś zupę, ogrzewanie „nie” działa…']],
	['iso-8859-2', ['Łucja Wrona', 'Piet Dragan'], ['klucz jest pod doniczką', 'przynieś zupę jutro rano, dziękuję']],
	['windows-1253', ['Νίκη', 'Άννα'], ['το κλειδί είναι κάτω από τη γλάστρα', 'Άσε το, θα έρθω αύριο']],
	['windows-1254', ['Ömer Kaya', 'Ayşe'], ['anahtar saksının altında', 'yarın çorba getir, çok şükür']],
	['windows-1255', ['נועה', 'דן'], ['המפתח מתחת לעציץ', 'תביאי מרק מחר בבוקר']],
	['windows-1256', ['ليلى', 'نور'], ['المفتاح تحت الوعاء', 'أحضري الحساء غدا صباحا']],
	['windows-1252', ['Jörg Winter', 'Zoë May'], ['der Schlüssel liegt unter dem Topf', '„Nein“ – 5 €…']],
	['windows-1252', ['Seán Moor', 'Ada'], ['la chiave è sotto il vaso, però non c’è più', 'perché? ho già detto di sì, venerdì sarà lì']],
	['windows-1252', ['Seán Moor', 'Ada'], ['la chiave è qui e il pranzo è lì', 'richiama domani, porta è rotta']],
	['windows-1250', ['Đuro', 'Ana'], ['ključ je ispod saksije, doći ću kući večeras', 'grijanje još ne radi, čekam već tjedan']],
	['windows-1257', ['Jurgis', 'Rūta'], ['raktas po vazonu, ačiū už viską', 'šildymas neveikia, ateisiu į pietus']],
	['shift_jis', ['花子', '太郎'], ['鍵は鉢の下です。', 'ｽｰﾌﾟを持ってきて']],
	['euc-jp', ['花子', '太郎'], ['鍵は鉢の下です。', 'スープを持ってきて']],
	['gb18030', ['美玲', '王伟'], ['钥匙在花盆下面', '暖气坏了，请打电话']],
	['big5', ['美玲', '王偉'], ['鑰匙在花盆下面', '暖氣壞了，請打電話']],
	['euc-kr', ['하늘', '지민'], ['열쇠는 화분 아래에 있어요', '내일 수프 가져와']]
];
const FORMS: readonly [string, (who: string, at: string, text: string) => string, string, string][] = [
	['chat.txt', (who, at, text) => `[${at}] ${who}: ${text}`, '', '\n'],
	['chat.csv', (who, at, text) => `${at};${who};${text}`, 'date;from;text\n', '\n'],
	['chat.json', (who, at, text) => JSON.stringify({ date: at, from: who, text }), '[', ','],
	['chat.html', (who, at, text) => `<li><b>${who}</b><i>${at}</i><p>${text}</p></li>`, '<html><body><ul>', '\n']
];

describe('code pages', () => {
	for (const [page, names, said] of TALKS)
		it(page, () => {
			const encode = encoderOf(page);
			const texts = Array.from({ length: 8 }, (_, i) => `${said[i % 2]} ${i}`);
			for (const [name, line, head, between] of FORMS) {
				const lines = texts.map((text, i) => line(names[i % 2]!, `2025-01-${14 + i} 10:0${i}:00`, text));
				const bytes = encode(head + lines.join(between) + (head === '[' ? ']' : ''));
				const look = new Look([{ name, path: name, source: new MemorySource(bytes) }], { reach: 'raw', owner: names[0] });
				for (const event of look.run()) void event;
				const messages = look.findings().weave.threads.flatMap((t) => t.messages);
				messages.sort((a, b) => a.first.sentAt! - b.first.sentAt!);
				assert.deepEqual(
					messages.map(({ first: { text, direction } }) => [text, direction]),
					texts.map((text, i) => [text, i % 2 ? 'in' : 'out']),
					name
				);
				messages.forEach((m, i) => {
					const { offset, length } = m.sightings[0]!;
					assert.ok(decodeCodePage(bytes.subarray(offset, offset + length), page).includes(texts[i]!), `${name} ${i}`);
				});
				assert.ok(
					look
						.allNotes()
						.map(describeNote)
						.some((n) => n.includes(name) && n.includes(page)),
					name
				);
			}
		});

	it('a few accents among English are Windows-1252, and a size counts bytes', () => {
		const encode = encoderOf('windows-1252');
		assert.equal(codePageOf(encode('The key is under the pot – please bring soup to Zoë')), 'windows-1252');
		for (const [page, , said] of TALKS) assert.equal(sizeInCodePage(said.join(), page), encoderOf(page)(said.join()).length, page);
		// Letters of the plane beyond take four bytes.
		assert.equal(sizeInCodePage('a㐀𠀀', 'gb18030'), 1 + 4 + 4);
	});

	it('what says how it is written is read so, and nothing is said', () => {
		const text = '[2025-01-14 10:00:00] Катя: ключ\n[2025-01-14 10:01:00] Иво: хорошо\n[2025-01-14 10:02:00] Катя: да\n';
		const look = new Look([{ name: 'a.txt', path: 'a.txt', source: new MemorySource(new TextEncoder().encode(text)) }], {
			reach: 'raw',
			owner: null
		});
		for (const event of look.run()) void event;
		assert.deepEqual(look.allNotes(), []);
	});
});
