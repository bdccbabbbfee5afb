import { useState } from "react";
import { useNavigate } from "react-router";
import { type Term, t, term } from "../tongue/tongue";
import { Button } from "../ui/kit";
import { Question } from "../ui/Question";
import { useDiscard } from "./deeds";
import { type Saving, savingOf } from "./draft/reducer";
import { useWritten } from "./draft/useDraft";
import type { Part } from "./part";

const words: Record<Saving, Term> = {
	saved: term("Saved as it is written."),
	unsaved: term("Saving…"),
	saving: term("Saving…"),
	failed: term("Not saved."),
	conflict: term("Not saved."),
};

/** Whether what is written is kept, and the way to be rid of it. */
export function Keeping({ part }: { part: Part }) {
	const { store } = part;
	const fresh = useWritten(store, (w) => w.version === 0 && !w.dirty && !w.sent);
	const state = useWritten(store, savingOf);
	const [asking, setAsking] = useState(false);
	return (
		<p className="mt-auto flex items-baseline justify-between pt-2 text-quiet text-small">
			<span aria-live="polite">{fresh ? t("Kept from the first thing you write.") : t(words[state])}</span>
			<Button look="bare" onClick={() => setAsking(true)}>
				{part.sheet.meetingId ? t("Throw these changes away") : t("Throw this sheet away")}
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
		<Question title={changes ? t("Throw these changes away?") : t("Throw this sheet away?")} onClose={onClose}>
			<p className="my-2">
				{changes ? t("The meeting stays as it was sent.") : t("Nobody was invited yet, and nobody hears of it.")}{" "}
				{part.sheet.card && !changes && t("The link is withdrawn.")}
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
					{t("Throw away")}
				</Button>
				<Button onClick={onClose}>{t("Keep it")}</Button>
			</div>
		</Question>
	);
}
