/** What the people of the demo case write about, by person. Made up. */
export const LINES: Record<string, { them: string[]; us: string[] }> = {
	odile: {
		them: [
			'Bonjour Piet, the hall radiator is lukewarm again.',
			'Is the plant running on both pumps?',
			'The stairwell was 14 degrees this morning.',
			'Merci ! I will tell the others.',
			'Do you have the reading for staircase B?',
			'The minutes of the board are on the notice board.',
			'My neighbour on the third floor has no hot water.',
			'Ça marche à nouveau 👍',
			'Could you send the invoice of the filter?',
			'We meet on Thursday at seven, in the laundry.',
			'I measured 17.5 in the living room.',
			'Good. Let me know when the part has come.'
		],
		us: [
			'Both pumps are on, give it two hours.',
			'I will look at it after lunch.',
			'The valve on B was shut, it is open now.',
			'Reading for B is on the sheet by the door.',
			'Filter is ordered, it takes a week.',
			'Yes, I have it noted.',
			'Pressure was low, I have topped it up.',
			'I cannot before Thursday.',
			'Done.',
			'Please ring if it drops below 16.'
		]
	},
	tamsin: {
		them: [
			'Fine. I will note it in the minutes.',
			'Can you confirm the nine days in writing?',
			'The treasurer asks for the gas figures of December.',
			'Do you still have the key of the meter room?',
			'Thanks, that helps.',
			'Please bring the log book on Thursday.',
			'Agenda is out, you are point 4.',
			'Is 18 January right for the restart?'
		],
		us: [
			'Gas figures are with the office.',
			'Key is in the box.',
			'I will bring the log book.',
			'I was told the insurer pays.',
			'Noted.',
			'Not before the engineer has been.',
			'The restart was in the evening of the 18th.'
		]
	},
	bram: {
		them: [
			'Boiler room is flooded again',
			'I put a bucket under the relief valve',
			'You want me to close the main?',
			'Ha. Same as last year then',
			'Sent you two photos',
			'Pump 2 makes that noise 🙉',
			'I can come at 6',
			'The wrench is in your locker'
		],
		us: [
			'Close it, I am on my way.',
			'Leave pump 2 off.',
			'Which wrench?',
			'Thanks for that 🙏',
			'See you at six.',
			'It is the seal, I have a spare.'
		]
	},
	noor: {
		them: [
			'مساء الخير، هل التدفئة تعمل الآن؟',
			'سأرسل لك الفاتورة غداً',
			'الماء بارد منذ الصباح',
			'شكراً جزيلاً',
			'متى يأتي الفني؟',
			'درجة الحرارة ١٥ في غرفة الأطفال',
			'هل يمكنني الدفع في نهاية الشهر؟',
			'Thank you, it works now'
		],
		us: [
			'It is on again, sorry for the cold.',
			'The engineer comes on Tuesday.',
			'End of the month is fine.',
			'Please leave the valve at 3.',
			'شكراً'
		]
	},
	wen: {
		them: [
			'七点半在锅炉房见',
			'暖气又不热了',
			'请把照片发给我，谢谢',
			'我已经关了阀门',
			'明天几点开会？',
			'好的，没问题 👌',
			'账单里有九天没有供暖',
			'我会把表的读数记下来'
		],
		us: ['Half past seven is good.', 'Valve is fixed, please open it again.', 'Photo follows tonight.', 'Meeting is at seven.', '谢谢']
	},
	yusuf: {
		them: [
			'Gas reading 48211',
			'Meter cupboard is locked',
			'Kombi yine arıza verdi',
			'I left the form at your door',
			'Teşekkürler!',
			'When is my deposit paid back?',
			'Reading today 48377'
		],
		us: ['Got it, thank you.', 'Open now.', 'Fault code?', 'With the next statement.', 'Tamam.']
	},
	stair: {
		them: [
			'Who has the drill?',
			'The front door does not close',
			'Parcel for 3B is with me',
			'Heating is off again on the second floor',
			'Same on the fourth',
			'Is anybody going to the board on Thursday?',
			'I can bring chairs',
			'Nine days now, this cannot be right',
			'Please do not park in front of the plant door',
			'Merci à tous'
		],
		us: [
			'I am in the plant, give me an hour.',
			'Door is repaired.',
			'Engineer ordered for tomorrow.',
			'I know, I am sorry.',
			'It will be looked at tonight.'
		]
	},
	desk: {
		them: [
			'Shift handed over, all normal',
			'Alarm 14 on the return temperature',
			'Oil delivered, 2,400 litres',
			'Pump 2 off at 04:10',
			'Chimney sweep on the 22nd',
			'Please sign the log'
		],
		us: ['Signed.', 'Alarm reset at 06:30.', 'Pump 2 stays off until the seal is in.', 'Noted in the log.']
	}
};

/** The messages the case is about, in order. `gone` says how each was lost. */
export const KEY_MESSAGES: { with: string; at: string; mine: boolean; text: string; gone?: 'single' | 'wiped'; editedFrom?: string }[] = [
	{ with: 'odile', at: '2025-01-09T07:12:40Z', mine: false, text: 'Piet, no heat at all since last night. The whole stairwell.' },
	{ with: 'odile', at: '2025-01-09T07:40:02Z', mine: true, text: 'The burner is out. I have called the firm.', gone: 'single' },
	{ with: 'odile', at: '2025-01-14T18:05:31Z', mine: false, text: 'Day six. There are children in this house.' },
	{
		with: 'odile',
		at: '2025-01-14T18:22:09Z',
		mine: true,
		text: 'I know. The part is stuck at customs, I was told Friday.',
		gone: 'single'
	},
	{ with: 'odile', at: '2025-01-18T20:31:55Z', mine: true, text: 'It is running. Nine days, I am sorry.' },
	{
		with: 'odile',
		at: '2025-01-30T17:41:07Z',
		mine: false,
		text: 'The heating was off for nine days. Are we still paying January in full?'
	},
	{
		with: 'odile',
		at: '2025-01-30T17:44:16Z',
		mine: true,
		text: 'No. I agree it was our fault. The January charge will be credited, you have my word.',
		gone: 'single'
	},
	{
		with: 'odile',
		at: '2025-01-30T17:44:58Z',
		mine: true,
		text: 'I will confirm to everyone on the stairwell list tomorrow 👍',
		gone: 'single'
	},
	{ with: 'odile', at: '2025-01-30T17:52:40Z', mine: false, text: 'Thank you. Could you put it in writing for the board as well?' },
	{ with: 'odile', at: '2025-01-30T17:56:10Z', mine: true, text: 'I will write to the board on Monday.', gone: 'wiped' },
	{ with: 'odile', at: '2025-01-30T17:57:31Z', mine: true, text: 'The office has to agree, but it will.', gone: 'wiped' },
	{ with: 'odile', at: '2025-01-30T18:03:55Z', mine: true, text: 'Photo of the meter at the shut-off, for your file', gone: 'single' },
	{ with: 'odile', at: '2025-01-31T07:12:21Z', mine: false, text: 'Received, it shows 0 on the 22nd. Merci!' },
	{ with: 'odile', at: '2025-01-31T08:05:00Z', mine: false, text: 'Understood. I will wait until the board meets.' },
	{
		with: 'stair',
		at: '2025-01-31T09:15:20Z',
		mine: true,
		text: 'To all: the charge for January will be credited in full. Piet',
		gone: 'single'
	},
	{ with: 'stair', at: '2025-01-31T09:31:02Z', mine: false, text: 'That is good of you, thank you' },
	{ with: 'tamsin', at: '2025-02-03T16:20:44Z', mine: false, text: 'Odile says you agreed to the credit. Shall I put it on the agenda?' },
	{
		with: 'tamsin',
		at: '2025-02-03T16:48:10Z',
		mine: true,
		text: 'I said we would look into it.',
		editedFrom: 'Yes, put it on the agenda. I agreed to it on the 30th.'
	},
	{ with: 'odile', at: '2025-02-12T19:02:30Z', mine: false, text: 'The February statement still charges January. You gave your word.' },
	{ with: 'odile', at: '2025-02-12T19:30:12Z', mine: true, text: 'I do not remember agreeing to that.' },
	{
		with: 'odile',
		at: '2025-02-12T19:41:27Z',
		mine: true,
		text: 'Then leave me out of the minutes. The credit stands as I said it would.',
		gone: 'wiped'
	},
	{
		with: 'bram',
		at: '2025-02-10T20:11:00Z',
		mine: true,
		text: 'If anybody asks about the charge, send them to the office.',
		gone: 'single'
	}
];
