import type { Temporal } from "temporal-polyfill";
import { clock, inZone, moment } from "../time/format";
import { type Term, t, term } from "../tongue/tongue";
import type { SentLine } from "./deeds";

export const stageWords = {
	written: term("written"),
	taken: term("taken by their server"),
	mailbox: term("put in the mailbox"),
	answered: term("answered"),
};

export type Stage = keyof typeof stageWords;
export type Cell = { stage: Stage; look: Look; words: string };
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
		stage: "written",
		look: line.state === "queued" ? "open" : "done",
		words: line.state === "queued" ? (trouble === "notYet" ? t("tried again") : t("on its way")) : at(line.queuedAt),
	};
	const server: Cell = { stage: "taken", look: came >= 2 ? "done" : "ahead", words: "" };
	const box: Cell = { stage: "mailbox", look: came >= 3 ? "done" : "ahead", words: "" };
	if (!line.outside) {
		server.words = t("in Jembro");
		box.words = line.stage === "seen" ? t("seen %s", short(line.stageAt)) : t("not seen yet");
		if (line.stage !== "seen") box.look = "open";
	} else if (came >= 3) {
		box.words = line.stage === "seen" ? t("opened %s", short(line.stageAt)) : short(line.stageAt);
	} else if (came === 2) {
		server.words = short(line.stageAt);
		box.words = t("says nothing");
		box.look = "open";
	} else if (came === 1 && trouble === "none" && !broke) {
		server.words = t("says nothing yet");
		server.look = "open";
	}
	if (broke) {
		const where = inMailbox ? box : server;
		if (inMailbox) server.look = "done";
		where.look = "broken";
		where.words = `${inMailbox && line.code.endsWith(".2") ? t("mailbox full") : t(troubles[line.trouble])} ${line.code}`;
	} else if (trouble === "delayed") {
		server.look = "open";
		server.words = t("delayed %s", line.code);
	} else if (trouble === "challenged" || trouble === "complained" || trouble === "discarded") {
		box.look = "broken";
		box.words = { challenged: t("asks first"), complained: t("unwanted"), discarded: t("deleted unread") }[trouble];
	}
	const answered: Cell = line.answeredAt
		? { stage: "answered", look: "done", words: t(answers[line.answer], short(line.answeredAt)) }
		: { stage: "answered", look: "ahead", words: line.mended === "none" ? "" : t(mendings[line.mended]) };
	return [written, server, box, answered];
}

const troubles: Record<SentLine["trouble"], Term> = {
	none: term("not taken"),
	notYet: term("not taken yet"),
	delayed: term("delayed"),
	refused: term("refused"),
	returned: term("returned"),
	discarded: term("deleted unread"),
	challenged: term("asks first"),
	complained: term("unwanted"),
};

const answers: Record<SentLine["answer"], Term> = {
	none: term("answered %s"),
	accepted: term("accepted %s"),
	maybe: term("maybe %s"),
	declined: term("declined %s"),
};

export const mendings: Record<Exclude<SentLine["mended"], "none">, Term> = {
	told: term("told by telephone"),
	again: term("sent again"),
	elsewhere: term("sent elsewhere"),
	text: term("told by text"),
	answered: term("answered"),
};
