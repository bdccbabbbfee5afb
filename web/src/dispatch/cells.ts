import type { Temporal } from "temporal-polyfill";
import { clock, inZone, moment } from "../time/format";
import type { SentLine } from "./deeds";

export const stageNames = ["written", "taken by their server", "put in the mailbox", "answered"];

export type Cell = { look: Look; words: string };
export type Look = "done" | "open" | "broken" | "ahead";

const order: SentLine["stage"][] = ["none", "handed", "relayed", "delivered", "seen"];

/** How far a message came, stage by stage, as somebody in a zone sees it now. */
export function cellsOf(line: SentLine, zone: string, now: Temporal.Instant): Cell[] {
	const at = (instant?: string) => (instant ? moment(instant, zone, now) : "");
	const short = (instant?: string) => (instant ? clock(inZone(instant, zone)) : "");
	const came = order.indexOf(line.stage);
	const trouble = line.mended === "none" || line.trouble === "none" ? line.trouble : "none";
	const { broke } = line;
	const inMailbox = line.code.split(".")[1] === "2";
	const written: Cell = {
		look: line.state === "queued" ? "open" : "done",
		words: line.state === "queued" ? (trouble === "notYet" ? "tried again" : "on its way") : at(line.queuedAt),
	};
	const server: Cell = { look: came >= 2 ? "done" : "ahead", words: "" };
	const box: Cell = { look: came >= 3 ? "done" : "ahead", words: "" };
	if (!line.outside) {
		server.words = "in Jembro";
		box.words = line.stage === "seen" ? `seen ${short(line.stageAt)}` : "not seen yet";
		if (line.stage !== "seen") box.look = "open";
	} else if (came >= 3) {
		box.words = line.stage === "seen" ? `opened ${short(line.stageAt)}` : short(line.stageAt);
	} else if (came === 2) {
		server.words = short(line.stageAt);
		box.words = "says nothing";
		box.look = "open";
	} else if (came === 1 && trouble === "none" && !broke) {
		server.words = "says nothing yet";
		server.look = "open";
	}
	if (broke) {
		const where = inMailbox ? box : server;
		if (inMailbox) server.look = "done";
		where.look = "broken";
		where.words = `${inMailbox && line.code.endsWith(".2") ? "mailbox full" : line.trouble} ${line.code}`;
	} else if (trouble === "delayed") {
		server.look = "open";
		server.words = `delayed ${line.code}`;
	} else if (trouble === "challenged" || trouble === "complained" || trouble === "discarded") {
		box.look = "broken";
		box.words = { challenged: "asks first", complained: "unwanted", discarded: "deleted unread" }[trouble];
	}
	const answered: Cell = line.answeredAt
		? { look: "done", words: `${line.answer} ${short(line.answeredAt)}` }
		: { look: "ahead", words: line.mended === "none" ? "" : mendings[line.mended] };
	return [written, server, box, answered];
}

export const mendings: Record<SentLine["mended"], string> = {
	none: "",
	told: "told by telephone",
	again: "sent again",
	elsewhere: "sent elsewhere",
	text: "told by text",
	answered: "answered",
};
