import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { type Problem, ProblemError, problemOf, type Schemas } from "../api/client";
import { saveSheet, sheetKey } from "./deeds";

type Sheet = Schemas["Sheet"];
type Draft = Schemas["Draft"];

export type Saving = "saved" | "unsaved" | "saving" | "failed" | "conflict";

const pause = 350;

/**
 * What is being written, and its way to the program: every change is saved after a short pause, one save at a time.
 * When another window saved meanwhile nothing is overwritten: `theirs` holds what it saved until one of both is taken.
 */
export function useDraft(sheet: Sheet) {
	const queries = useQueryClient();
	const [draft, setDraft] = useState(sheet.draft);
	const [state, setState] = useState<Saving>("saved");
	const [problem, setProblem] = useState<Problem | null>(null);
	const [theirs, setTheirs] = useState<Sheet | null>(null);
	// base is the draft as it is stored under version: when that is still what is stored, only a link came or went.
	const latest = useRef({
		draft,
		base: sheet.draft,
		version: sheet.version,
		dirty: false,
		running: null as Promise<boolean> | null,
	});
	const timer = useRef<ReturnType<typeof setTimeout>>(undefined);

	const save = useCallback(async (): Promise<boolean> => {
		clearTimeout(timer.current);
		const now = latest.current;
		if (now.running) await now.running;
		if (!now.dirty) return true;
		now.dirty = false;
		setState("saving");
		now.running = store(sheet.id, now)
			.then((saved) => {
				now.version = saved.version;
				now.base = saved.draft;
				queries.setQueryData(sheetKey(sheet.id), saved);
				setProblem(null);
				setState(now.dirty ? "unsaved" : "saved");
				return true;
			})
			.catch((error: unknown) => {
				now.dirty = true;
				const stored = storedBy(error);
				if (stored) {
					setTheirs(stored);
					setState("conflict");
				} else {
					setProblem(problemOf(error));
					setState("failed");
					if (!(error instanceof ProblemError)) timer.current = setTimeout(() => void save(), 3000);
				}
				return false;
			})
			.finally(() => {
				now.running = null;
			});
		return now.running;
	}, [sheet.id, queries]);

	const change = useCallback(
		(part: Partial<Draft>) => {
			const now = latest.current;
			now.draft = { ...now.draft, ...part };
			now.dirty = true;
			setDraft(now.draft);
			setState((s) => (s === "conflict" ? s : "unsaved"));
			clearTimeout(timer.current);
			timer.current = setTimeout(() => void save(), pause);
		},
		[save],
	);

	// What another deed or window stored is taken over, unless something is being written here.
	useEffect(() => {
		const now = latest.current;
		if (sheet.version <= now.version) return;
		if (now.dirty || now.running) {
			if (same(sheet.draft, now.base)) now.version = sheet.version;
			return;
		}
		now.version = sheet.version;
		now.base = sheet.draft;
		now.draft = sheet.draft;
		setDraft(sheet.draft);
	}, [sheet]);

	// What was typed is on its way before the view or the window goes; only what cannot be saved asks to stay.
	const stuck = state === "failed" || state === "conflict";
	useEffect(() => {
		const leave = (e: BeforeUnloadEvent) => {
			if (latest.current.dirty) void save();
			if (stuck) e.preventDefault();
		};
		window.addEventListener("beforeunload", leave);
		return () => window.removeEventListener("beforeunload", leave);
	}, [save, stuck]);
	useEffect(() => () => void (latest.current.dirty && save()), [save]);

	const resolve = useCallback(
		(keep: "mine" | "theirs") => {
			if (!theirs) return;
			const now = latest.current;
			now.version = theirs.version;
			now.base = theirs.draft;
			setTheirs(null);
			if (keep === "theirs") {
				now.draft = theirs.draft;
				now.dirty = false;
				setDraft(theirs.draft);
				setState("saved");
				queries.invalidateQueries({ queryKey: sheetKey(sheet.id) });
			} else {
				now.dirty = true;
				void save();
			}
		},
		[theirs, save, queries, sheet.id],
	);

	return { draft, change, save, state, problem, theirs, resolve, version: () => latest.current.version };
}

/** The sheet that another window stored, when that is why a save was refused. */
const storedBy = (error: unknown) => (error instanceof ProblemError ? error.problem.sheet : undefined);

/** Saves; when only a link came or went meanwhile, what is written here goes on top of that. */
async function store(id: string, now: { version: number; draft: Draft; base: Draft }) {
	try {
		return await saveSheet(id, now.version, now.draft);
	} catch (error) {
		const stored = storedBy(error);
		if (!stored || !same(stored.draft, now.base)) throw error;
		return saveSheet(id, stored.version, now.draft);
	}
}

const same = (a: Draft, b: Draft) => JSON.stringify(a) === JSON.stringify(b);

export type Drafting = ReturnType<typeof useDraft>;
