import { useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { Bracket, type Reach, within } from "../series/Bracket";
import { inZone, longDay } from "../time/format";
import { Button, fieldLook, Label, Note } from "../ui/kit";
import { Question } from "../ui/Question";
import { useCallOff } from "./deeds";
import { seriesCell } from "./SeriesDates";

type Meeting = Schemas["Meeting"];

/** Asks before anything is called off: of a series, which dates. */
export function CallOffQuestion({ m, on, onClose }: { m: Meeting; on: string; onClose: () => void }) {
	const { zone } = useSignedIn();
	const series = m.series;
	const cells = series?.dates.map((d) => seriesCell(d, zone, m)) ?? [];
	const coming = cells.filter((c) => !c.fixed);
	const at = coming.some((c) => c.day === on) ? on : (coming[0]?.day ?? on);
	const [word, setWord] = useState("");
	const [reach, setReach] = useState<Reach>({ from: at, to: at });
	const callOff = useCallOff(m);
	const told = m.participants.length;
	const names = told <= 4 ? m.participants.map((p) => p.name).join(", ") : `${told} people`;
	const hear = told === 0 ? "Nobody else has to hear of it." : `${names} ${told === 1 ? "hears" : "hear"} of it now`;
	const meant = cells.filter((c) => within(c, reach));
	const last = series ? meant.length === coming.length && (!series.more || reach.to === "") : true;
	const everything = last && !series?.dates.some((d) => d.state === "held");
	const what =
		series && !everything
			? reach.to === "" && series.more
				? "these and all later dates"
				: dateCount(meant.length)
			: "";
	return (
		<Question
			wide={!!series}
			title={series ? `Call off ${m.title}` : `Call off ${longDay(inZone(m.start, zone).toPlainDate())}?`}
			onClose={onClose}
		>
			{series && (
				<div className="my-2">
					<Bracket cells={cells} reach={reach} at={at} onReach={setReach} />
				</div>
			)}
			<p className="my-2">
				{hear}
				{told > 0 && (series && !everything ? ", each of their own dates only." : ".")}
				{m.room && ` ${m.room.name} becomes clear.`}
				{m.card && everything && " The link is withdrawn."}
				{m.card && !last && " The link stays as it is for the other dates."}
				{last && !everything && " No date is left then; those held stay as they are."}
			</p>
			{told > 0 && (
				<div className="max-w-[440px]">
					<Label htmlFor="word-calloff">A word to them (optional)</Label>
					<input
						id="word-calloff"
						className={fieldLook()}
						value={word}
						maxLength={1000}
						onChange={(e) => setWord(e.target.value)}
					/>
				</div>
			)}
			{callOff.error && (
				<div className="mt-2">
					<Note tone="brick">{problemOf(callOff.error).errors?.[0]?.detail ?? problemOf(callOff.error).detail}</Note>
				</div>
			)}
			<div className="mt-3 flex gap-2">
				<Button
					look="stop"
					busy={callOff.isPending}
					onClick={() => callOff.mutate({ word, reach: series && reach }, { onSuccess: onClose })}
				>
					{["Call off", what, told > 0 && `and tell ${told === 1 ? "1 person" : `${told} people`}`]
						.filter(Boolean)
						.join(" ")}
				</Button>
				<Button onClick={onClose}>Keep it</Button>
			</div>
		</Question>
	);
}

const dateCount = (n: number) => (n === 1 ? "1 date" : `${n} dates`);
