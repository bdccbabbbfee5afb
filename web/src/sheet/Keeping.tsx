import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../ui/kit";
import { Question } from "../ui/Question";
import { useDiscard } from "./deeds";
import { type Saving, savingOf } from "./draft/reducer";
import { useWritten } from "./draft/useDraft";
import type { Part } from "./part";

const words: Record<Saving, string> = {
	saved: "Saved as it is written.",
	unsaved: "Saving…",
	saving: "Saving…",
	failed: "Not saved.",
	conflict: "Not saved.",
};

/** Whether what is written is kept, and the way to be rid of it. */
export function Keeping({ part }: { part: Part }) {
	const { store } = part;
	const fresh = useWritten(store, (w) => w.version === 0 && !w.dirty && !w.sent);
	const state = useWritten(store, savingOf);
	const [asking, setAsking] = useState(false);
	return (
		<p className="mt-auto flex items-baseline justify-between pt-2 text-quiet text-small">
			<span aria-live="polite">{fresh ? "Kept from the first thing you write." : words[state]}</span>
			<Button look="bare" onClick={() => setAsking(true)}>
				{part.sheet.meetingId ? "Throw these changes away" : "Throw this sheet away"}
			</Button>
			{asking && <Discard part={part} onClose={() => setAsking(false)} />}
		</p>
	);
}

function Discard({ part, onClose }: { part: Part; onClose: () => void }) {
	const discard = useDiscard(part.sheet.id);
	const kept = useWritten(part.store, (w) => w.version > 0);
	const navigate = useNavigate();
	const changes = !!part.sheet.meetingId;
	return (
		<Question title={changes ? "Throw these changes away?" : "Throw this sheet away?"} onClose={onClose}>
			<p className="my-2">
				{changes ? "The meeting stays as it was sent." : "Nobody was invited yet, and nobody hears of it."}
				{part.sheet.card && !changes && " The link is withdrawn."}
			</p>
			<div className="flex gap-2">
				<Button
					look="stop"
					busy={discard.isPending}
					onClick={() => {
						part.store.drop();
						if (kept) discard.mutate(undefined, { onSuccess: () => navigate("/weeks") });
						else navigate("/weeks");
					}}
				>
					Throw away
				</Button>
				<Button onClick={onClose}>Keep it</Button>
			</div>
		</Question>
	);
}
