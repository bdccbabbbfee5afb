import type { ReactNode } from "react";
import { useSignedIn } from "../api/me";
import { clock, inZone, moment } from "../time/format";
import { useNow } from "../time/now";
import type { SentLine } from "./deeds";

/** The columns that a message goes through; each row has the same. */
export const columns = "grid-cols-[minmax(0,1fr)_minmax(0,1fr)_minmax(0,1fr)_minmax(0,1fr)]";

export const stageNames = ["written", "taken by their server", "put in the mailbox", "answered"];

type Cell = { look: Look; words: ReactNode };
type Look = "done" | "open" | "broken" | "ahead";

const looks: Record<Look, string> = {
	done: "h-1 bg-moss",
	open: "h-1 mark-unanswered",
	broken: "h-1 mark-broken",
	ahead: "h-0 border-rule border-t-2 border-dotted",
};

/** How far one message came: a line that is drawn as far as it got. */
export function Track({ line }: { line: SentLine }) {
	const cells = useCells(line);
	return (
		<ol aria-label={`How far the message to ${line.name} came`} className={`grid ${columns}`}>
			{cells.map((c, i) => (
				<li key={stageNames[i]} className="min-w-0 pt-1">
					<span aria-hidden className="flex h-1 items-center">
						<span className={`block w-full ${looks[c.look]}`} />
					</span>
					<span className="sr-only">{stageNames[i]}: </span>
					<span
						className={`mt-0.5 block truncate pr-2 text-small ${c.look === "broken" ? "text-brick" : c.look === "open" ? "text-honey" : "text-quiet"}`}
					>
						{c.words || <span className="sr-only">{c.look === "done" ? "yes" : "not yet"}</span>}
					</span>
				</li>
			))}
		</ol>
	);
}

const order: SentLine["stage"][] = ["none", "handed", "relayed", "delivered", "seen"];

function useCells(line: SentLine): Cell[] {
	const { zone } = useSignedIn();
	const now = useNow();
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
		: { look: "ahead", words: line.mended !== "none" ? mendings[line.mended] : "" };
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
