import { useRef, useState } from "react";
import { useNavigate } from "react-router";
import { ProblemError, problemOf, type Schemas } from "../api/client";
import { useSay } from "../ui/notice";
import { useSend } from "./deeds";
import type { DraftStore } from "./draft/store";

/** Sends the sheet once, however often the key or the button is pressed. */
export function useSending(sheet: Schemas["Sheet"], store: DraftStore) {
	const navigate = useNavigate();
	const say = useSay();
	const send = useSend(sheet.id);
	const [tried, setTried] = useState(false);
	const [busy, setBusy] = useState(false);
	const key = useRef({ version: 0, key: "" });
	/** Whether it was sent. */
	const go = async () => {
		if (busy) return false;
		setTried(true);
		setBusy(true);
		try {
			if (!(await store.save())) return false;
			const version = store.get().version;
			// The same state of the sheet keeps its key: a repetition is recognised.
			if (key.current.version !== version) key.current = { version, key: crypto.randomUUID() };
			const sent = await send.mutateAsync({ version, key: key.current.key });
			say(
				sent.told === 0
					? "Kept; nobody needed to hear of it"
					: `${sent.told === 1 ? "1 message" : `${sent.told} messages`} on the way`,
			);
			const at = store.get().draft.scope?.at;
			// In the place of the sheet, which is gone: the way back does not lead to it.
			navigate(`/meeting/${sent.meetingId}${at && sent.meetingId === sheet.meetingId ? `?date=${at}` : ""}`, {
				replace: true,
			});
			store.drop();
			return true;
		} catch {
			return false; // shown by what send.error says
		} finally {
			setBusy(false);
		}
	};
	const problem = send.error ? problemOf(send.error) : null;
	const taken =
		send.error instanceof ProblemError && send.error.kind === "room-taken"
			? { sentence: problem?.detail ?? "", clear: problem?.clearRooms ?? [], roomId: sheet.draft.roomId }
			: null;
	// A fault is shown at its field, a taken room at the room.
	const shown = problem && !taken && problem.type !== "/problems/invalid" ? problem : null;
	return { go, busy, tried, taken, problem: shown };
}

export type Sending = ReturnType<typeof useSending>;
