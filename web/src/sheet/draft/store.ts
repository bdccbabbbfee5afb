import { type Problem, ProblemError, problemOf, type Schemas } from "../../api/client";
import { begin, type Draft, type Happening, next, savingOf, type Writing } from "./reducer";
import { typedIn, withTyped } from "./typed";

type Sheet = Schemas["Sheet"];

/** How long nothing is written before it is saved, and how long it waits at the most while somebody writes on. */
export const pause = 700;
const longest = 5000;
const retryAfter = 3000;

type Save = (version: number, draft: Draft, typing: string) => Promise<Sheet>;

/**
 * Keeps what is written on one sheet, and brings it to the program: after a pause, one save at a time. Parts of the page
 * subscribe to what they show of it.
 */
export class DraftStore {
	private now: Writing;
	private readonly hearers = new Set<() => void>();
	private timer: ReturnType<typeof setTimeout> | undefined;
	private firstUnsaved = 0;
	private running: Promise<boolean> | null = null;
	/** The field for a day, a time or people that the cursor stands in. */
	private typing = "";
	private dropped = false;
	/** What becomes part of the sheet once it is there. */
	private readonly coming = new Set<Promise<void>>();

	constructor(
		sheet: Sheet,
		private readonly put: Save,
		private readonly kept: (sheet: Sheet) => void,
	) {
		this.now = begin(sheet);
	}

	get = () => this.now;

	subscribe = (hear: () => void) => {
		this.hearers.add(hear);
		return () => {
			this.hearers.delete(hear);
		};
	};

	private tell(h: Happening) {
		this.now = next(this.now, h);
		for (const hear of this.hearers) hear();
	}

	/** Something was written: it is saved after a pause. */
	change = (part: Partial<Draft>) => {
		if (Object.keys(part).length === 0) return;
		if (!this.now.dirty) this.firstUnsaved = Date.now();
		this.tell({ type: "wrote", part });
		this.saveAfter(Math.max(0, Math.min(pause, this.firstUnsaved + longest - Date.now())));
	};

	/** Something is typed into a field that the program reads. */
	type = (field: string, text: string) => {
		this.typing = field;
		this.change({ typed: withTyped(this.now.draft.typed, field, text) });
	};

	/** A field is left: what was typed into it is read now; what says nothing new is forgotten. */
	left = (field: string, shown?: string) => {
		if (this.typing === field) this.typing = "";
		const text = typedIn(this.now.draft.typed, field);
		if (text === null) return;
		if (text.trim() === "" || text === shown) return this.forget(field);
		this.tell({ type: "wrote", part: { typed: withTyped(this.now.draft.typed, field, text) } });
		void this.save();
	};

	/** What is typed into a field is taken back. */
	forget = (field: string) => this.change({ typed: withTyped(this.now.draft.typed, field, null) });

	private saveAfter(ms: number) {
		clearTimeout(this.timer);
		this.timer = setTimeout(() => void this.save(), ms);
	}

	/** Saves what is written now; true when everything is kept. */
	save = async (): Promise<boolean> => {
		clearTimeout(this.timer);
		while (this.running) await this.running;
		if (this.now.theirs) return false;
		// A sheet that was only begun is kept once something is done with it.
		if (!this.now.dirty && this.now.version > 0) return true;
		this.running = this.send();
		const ok = await this.running;
		this.running = null;
		return ok;
	};

	private async send(): Promise<boolean> {
		this.tell({ type: "sent" });
		try {
			const sheet = await this.put(this.now.version, this.now.sent as Draft, this.typing);
			this.tell({ type: "kept", sheet });
			this.kept(sheet);
			return true;
		} catch (error) {
			return this.failed(error);
		}
	}

	private async failed(error: unknown): Promise<boolean> {
		const theirs = error instanceof ProblemError ? error.problem.sheet : undefined;
		if (theirs) {
			this.tell({ type: "overtaken", theirs });
			return this.now.theirs ? false : this.send();
		}
		this.tell({ type: "refused", problem: problemOf(error) });
		// What the program refuses stays refused; a connection that is lost comes back.
		if (!(error instanceof ProblemError) || error.problem.status >= 500) this.saveAfter(retryAfter);
		return false;
	}

	/** Something is on its way that becomes part of the sheet: Send waits for it. */
	awaits = (what: Promise<void>) => {
		this.coming.add(what);
		const done = () => this.coming.delete(what);
		what.then(done, done);
	};

	/** Waits for what is on its way; false when some of it did not arrive. */
	arrived = async () => (await Promise.allSettled(this.coming)).every((r) => r.status === "fulfilled");

	/** The sheet was read anew, or another deed answered with it. */
	read = (sheet: Sheet) => this.tell({ type: "read", sheet });

	/** Takes one of both after a conflict. */
	resolve = (whose: "mine" | "theirs") => {
		const theirs = this.now.theirs;
		this.tell({ type: "took", whose });
		if (whose === "mine") void this.save();
		else if (theirs) this.kept(theirs);
	};

	/** Whether everything that was written is kept. */
	settled = () => this.dropped || (!this.now.dirty && !this.now.sent && !this.now.theirs);

	/** Whether leaving now would lose something that cannot be saved. */
	stuck = () => this.coming.size > 0 || ["failed", "conflict"].includes(savingOf(this.now));

	/** The sheet is thrown away: nothing of it is saved any more. */
	drop = () => {
		clearTimeout(this.timer);
		this.dropped = true;
	};

	/** What is written is on its way before the view goes. */
	leave = () => {
		if (this.dropped) return;
		if (this.now.dirty && !this.now.theirs) void this.save();
	};

	problem = (): Problem | null => this.now.problem;
}
