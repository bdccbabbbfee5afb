import { useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { inZone, longDay } from "../time/format";
import { Button, fieldLook, Label, Note } from "../ui/kit";
import { Question } from "../ui/Question";
import { useCallOff } from "./deeds";

export function CallOffQuestion({ m, onClose }: { m: Schemas["Meeting"]; onClose: () => void }) {
	const { zone } = useSignedIn();
	const [word, setWord] = useState("");
	const callOff = useCallOff(m);
	const told = m.participants.length;
	const names = m.participants.length <= 4 ? m.participants.map((p) => p.name).join(", ") : `${told} people`;
	const hear = told === 0 ? "Nobody else has to hear of it." : `${names} ${told === 1 ? "hears" : "hear"} of it now.`;
	return (
		<Question title={`Call off ${longDay(inZone(m.start, zone).toPlainDate())}?`} onClose={onClose}>
			<p className="my-2">
				{hear}
				{m.room && ` ${m.room.name} becomes clear.`}
				{m.card && " The link is withdrawn."}
			</p>
			{told > 0 && (
				<>
					<Label htmlFor="word-calloff">A word to them (optional)</Label>
					<input
						id="word-calloff"
						className={fieldLook()}
						value={word}
						maxLength={1000}
						onChange={(e) => setWord(e.target.value)}
					/>
				</>
			)}
			{callOff.error && (
				<div className="mt-2">
					<Note tone="brick">{problemOf(callOff.error).detail}</Note>
				</div>
			)}
			<div className="mt-3 flex gap-2">
				<Button look="stop" busy={callOff.isPending} onClick={() => callOff.mutate(word, { onSuccess: onClose })}>
					{told === 0 ? "Call off" : `Call off and tell ${told === 1 ? "1 person" : `${told} people`}`}
				</Button>
				<Button onClick={onClose}>Keep it</Button>
			</div>
		</Question>
	);
}
