import assert from 'node:assert/strict';
import { describe, it } from 'node:test';
import { conversationName } from '../../src/core/harvest/exported/conversation-name';

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
