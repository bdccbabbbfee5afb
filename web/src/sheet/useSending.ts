import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { ProblemError, problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { many, t } from "../tongue/tongue";
import { useSay } from "../ui/notice";
import { useSend, useSendLater } from "./deeds";
import type { DraftStore } from "./draft/store";

/** Sends the sheet once, however often the key or the button is pressed. */
export function useSending(sheet: Schemas["Sheet"], store: DraftStore) {
	const navigate = useNavigate();
	const say = useSay();
	const send = useSend(sheet.id);
	const later = useSendLater(sheet.id);
	const { undoSeconds } = useSignedIn();
	const [tried, setTried] = useState(false);
	const [busy, setBusy] = useState(false);
	const key = useRef({ version: 0, key: "" });
	/** Has it wait: until it cannot be taken back any more, or until a moment. Whether it does. */
	const wait = async (at?: string) => {
		await later.mutateAsync({ version: store.get().version, at });
		store.drop();
		return true;
	};
	/** Whether it was sent, or waits for it. */
	const go = async (at?: string) => {
		if (busy) return false;
		setTried(true);
		setBusy(true);
		try {
			if (!(await store.arrived()) || !(await store.save())) return false;
			if (at !== undefined || undoSeconds > 0) return await wait(at);
			const version = store.get().version;
			// The same state of the sheet keeps its key: a repetition is recognised.
			if (key.current.version !== version) key.current = { version, key: crypto.randomUUID() };
			const sent = await send.mutateAsync({ version, key: key.current.key });
			say(
				sent.told === 0
					? t("Kept; nobody needed to hear of it")
					: many(sent.told, "1 message on the way", "%d messages on the way"),
			);
			// In the place of the sheet, which is gone: the way back does not lead to it.
			navigate(sentTo(sheet, sent.meetingId), { replace: true });
			store.drop();
			return true;
		} catch {
			return false; // shown by what the error says
		} finally {
			setBusy(false);
		}
	};
	const error = send.error ?? later.error;
	const problem = error ? problemOf(error) : null;
	const taken =
		error instanceof ProblemError && error.kind === "room-taken"
			? { sentence: problem?.detail ?? "", clear: problem?.clearRooms ?? [], roomId: sheet.draft.roomId }
			: null;
	// A fault is shown at its field, a taken room at the room.
	const atField = problem?.errors?.some(
		(e) => e.field === "sendAt" || sheet.faults.some((f) => f.field === e.field && f.code === e.code),
	);
	const shown = problem && !taken && !atField ? problem : null;
	const moment = problem?.errors?.find((e) => e.field === "sendAt")?.detail;
	return { go, moment, busy, tried, taken, problem: shown };
}

/** The page of what was sent, at the date that was changed. */
export function sentTo(sheet: Schemas["Sheet"], meetingId: string) {
	const at = sheet.draft.scope?.at;
	return `/meeting/${meetingId}${at && meetingId === sheet.meetingId ? `?date=${at}` : ""}`;
}

export type Sending = ReturnType<typeof useSending>;
