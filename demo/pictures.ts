/** Pictures of the demo case, drawn by rule: a gauge, a thermometer, a sheet of readings. Written as PNG (ISO 15948). */
import { zlibSync } from 'fflate';
import { crc32 } from '../src/core/unwrap/zip/locked';

type Ink = readonly [number, number, number];
const PAPER: Ink = [245, 242, 234];
const INK: Ink = [28, 35, 38];
const RED: Ink = [168, 60, 40];
const GREEN: Ink = [31, 111, 100];

function chunk(type: string, data: Uint8Array): Uint8Array {
	const out = new Uint8Array(12 + data.length);
	const view = new DataView(out.buffer);
	view.setUint32(0, data.length);
	out.set(new TextEncoder().encode(type), 4);
	out.set(data, 8);
	view.setUint32(8 + data.length, crc32(out.subarray(4, 8 + data.length)));
	return out;
}

function png(width: number, height: number, at: (x: number, y: number) => Ink): Uint8Array {
	const rows = new Uint8Array((width * 3 + 1) * height);
	for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) rows.set(at(x, y), y * (width * 3 + 1) + 1 + x * 3);
	const head = new Uint8Array(13);
	const view = new DataView(head.buffer);
	view.setUint32(0, width);
	view.setUint32(4, height);
	head.set([8, 2, 0, 0, 0], 8);
	const parts = [
		Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10),
		chunk('IHDR', head),
		chunk('IDAT', zlibSync(rows, { mtime: 0 } as object)),
		chunk('IEND', new Uint8Array())
	];
	const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
	let to = 0;
	for (const p of parts) {
		out.set(p, to);
		to += p.length;
	}
	return out;
}

/** A round gauge whose hand stands at `share` of its scale. */
export function gauge(share: number): Uint8Array {
	const size = 180;
	const middle = size / 2;
	const angle = Math.PI * (1.25 - share * 1.5);
	return png(size, size, (x, y) => {
		const [dx, dy] = [x - middle, middle - y];
		const r = Math.hypot(dx, dy);
		if (Math.abs(r - 80) < 2) return INK;
		const along = dx * Math.cos(angle) + dy * Math.sin(angle);
		const off = Math.abs(-dx * Math.sin(angle) + dy * Math.cos(angle));
		if (along > 0 && along < 66 && off < 2.5) return RED;
		const turn = Math.atan2(dy, dx);
		const tick = Math.round(turn / (Math.PI / 8)) * (Math.PI / 8);
		return r > 66 && r < 76 && Math.abs(turn - tick) < 0.03 ? INK : r < 4 ? INK : PAPER;
	});
}

/** A thermometer that shows `degrees` of 0 to 30. */
export function thermometer(degrees: number): Uint8Array {
	const top = 150 - degrees * 4;
	return png(90, 190, (x, y) => {
		const bulb = Math.hypot(x - 45, y - 165);
		if (bulb < 13) return RED;
		if (Math.abs(bulb - 15) < 1.5) return INK;
		if (Math.abs(x - 45) < 5 && y > top && y < 160) return RED;
		if (Math.abs(Math.abs(x - 45) - 8) < 1.2 && y > 14 && y < 152) return INK;
		return y % 20 === 10 && x > 56 && x < 66 && y < 152 ? INK : PAPER;
	});
}

/** A sheet of ruled lines, some of them filled. */
export function sheet(filled: number): Uint8Array {
	return png(160, 210, (x, y) => {
		if (x < 8 || x > 151 || y < 8 || y > 201) return PAPER;
		const line = Math.floor((y - 20) / 16);
		if ((y - 20) % 16 === 14) return [217, 211, 196];
		return line >= 0 && line < filled && (y - 20) % 16 > 4 && (y - 20) % 16 < 10 && x > 16 && x < 60 + ((line * 37) % 80)
			? GREEN
			: [251, 249, 244];
	});
}
