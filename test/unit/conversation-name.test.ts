import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { conversationName } from '../../src/core/harvest/exported/conversation-name';
import { looked } from '../vectors/written';

describe('what an exported conversation is called', () => {
	const cases: [name: string, path: string, called: string][] = [
		['conversation', 'case/Chat - Heating board.zip/conversation.txt', 'Heating board'],
		['_chat', 'case/conversation_Odile Marchetti.zip/_chat.txt', 'Odile Marchetti'],
		['messages', 'case/Stairwell B (export).zip/messages.txt', 'Stairwell B'],
		['chat history', 'case/Chat with Garden rota.tar.gz/chat history.txt', 'Garden rota'],
		['chat', 'case/Chatverlauf mit Li Wen/chat.txt', 'Li Wen'],
		// A folder called after anything, and names that say it themselves.
		['chat', 'case/Received/chat.txt', 'chat'],
		['chat', 'case/export 2025.zip/chat.txt', 'chat'],
		['chat', 'chat.txt', 'chat'],
		['Heating board', 'case/Chat - Plant desk.zip/Heating board.txt', 'Heating board'],
		['Chat Noir', 'case/Chat - Plant desk.zip/Chat Noir.txt', 'Chat Noir']
	];
	for (const [name, path, called] of cases)
		it(`${path}: ${called}`, () => {
			assert.equal(conversationName(name, path), called);
		});
});

describe('an exported conversation of one message', () => {
	const line = '[25/01/2025, 23:15:09] Odile Marchetti: the boiler is off again\n';
	const read = (path: string, text: string): (string | number | null)[][] =>
		looked({ [path]: new TextEncoder().encode(text) })
			.findings()
			.weave.threads.flatMap((t) => t.messages.map(({ first }) => [first.text, first.direction, first.sentAt]));

	it('is read where the file says with whom it is, and came from there', () => {
		const wanted = [['the boiler is off again', 'in', Date.UTC(2025, 0, 25, 23, 15, 9)]];
		assert.deepEqual(read('Chat with Odile Marchetti.txt', line), wanted);
		assert.deepEqual(read('Chat - Odile Marchetti.zip/conversation.txt', line), wanted);
	});

	it('is no conversation under any other name, nor where no writer stands before the text', () => {
		assert.deepEqual(read('diary.txt', line), []);
		assert.deepEqual(read('chat_server.txt', '2025-01-25 23:15:09 started\n'), []);
		assert.deepEqual(read('Chat with Odile Marchetti.txt', `What was said:\n${line}`), []);
	});
});
