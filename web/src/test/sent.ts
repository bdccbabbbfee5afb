import type { SentLine } from "../dispatch/deeds";

/** A message to somebody outside that was handed over, changed where a test needs it. */
export const sentLine = (change: Partial<SentLine>): SentLine => ({
	id: "l",
	name: "Freight desk",
	address: "freight@veerhaven.example",
	outside: true,
	state: "handed",
	stage: "handed",
	trouble: "none",
	code: "",
	mended: "none",
	answer: "none",
	reached: true,
	troubled: false,
	broke: false,
	lost: false,
	queuedAt: "2026-12-01T09:00:00Z",
	...change,
});
