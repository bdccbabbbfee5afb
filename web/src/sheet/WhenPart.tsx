import { memo } from "react";
import { Temporal } from "temporal-polyfill";
import { useSignedIn } from "../api/me";
import { city, clock, dayNear, length, sameClock, shortDay } from "../time/format";
import { useNow } from "../time/now";
import { Button, FieldFault } from "../ui/kit";
import { useWritten } from "./draft/useDraft";
import { PartRow } from "./PartRow";
import { faultAt, type Part } from "./part";
import { RepeatPart } from "./RepeatPart";
import { Readings, TypedField } from "./TypedField";
import { clockPart, dayPart, instant, moveStart, readLocal, settled } from "./when";
import { ZoneField } from "./ZoneField";

type Props = Part & { repeating: boolean; setRepeating: (open: boolean) => void };

export const WhenPart = memo(function WhenPart(part: Props) {
	const { draft, faults, day, sheet } = part;
	const me = useSignedIn();
	const today = useNow().toZonedDateTimeISO(me.zone).toPlainDate();
	const time = settled(draft);
	const [from, until] = [readLocal(draft.start), readLocal(draft.end)];
	const zone = faultAt(faults, "zone");
	const endElsewhere = dayPart(draft.end) !== dayPart(draft.start);
	return (
		<PartRow name="When">
			<div className="flex flex-wrap items-center gap-1.5">
				<TypedField
					part={part}
					field="day"
					name="Day"
					shown={from ? dayNear(from.toPlainDate(), today) : dayPart(draft.start)}
					className={from && from.year !== today.year ? "max-w-[132px]" : "max-w-[102px]"}
				/>
				<TypedField
					part={part}
					field="start"
					name="Starts"
					shown={from ? clock(from) : clockPart(draft.start)}
					className="max-w-[58px]"
				/>
				<span aria-hidden>–</span>
				<TypedField
					part={part}
					field="end"
					name="Ends"
					shown={until ? clock(until) : clockPart(draft.end)}
					className="max-w-[58px]"
				/>
				<span className="text-quiet">{time && length(time.minutes)}</span>
			</div>
			{endElsewhere && (
				<div className="mt-1.5 flex items-center gap-1.5 text-small">
					<span className="text-quiet">ends on</span>
					<TypedField
						part={part}
						field="lastDay"
						name="Last day"
						shown={until ? dayNear(until.toPlainDate(), today) : dayPart(draft.end)}
						className="max-w-[132px]"
					/>
				</div>
			)}
			<Readings part={part} fields={["day", "start", "end", "lastDay"]} />
			<TimeFaults part={part} today={today} />
			{sheet.clocks && <p className="text-honey text-small">{sheet.clocks}</p>}
			<RepeatPart {...part} open={part.repeating} setOpen={part.setRepeating} />
			<div className="mt-1 flex flex-wrap items-baseline gap-x-2 text-quiet text-small">
				<ZoneField part={part} own={me.zone} />
				<span>
					{time && elsewhere(time.start, draft.zone, [me.zone, ...(day?.lanes.map((l) => l.zone ?? "") ?? [])])}
				</span>
			</div>
			<FieldFault id="fault-zone" sentence={zone?.detail} />
		</PartRow>
	);
});

/** What is wrong with the time, and each way to mend it at one press. */
function TimeFaults({ part, today }: { part: Part; today: Temporal.PlainDate }) {
	const { draft, faults, change } = part;
	const waiting = useWritten(part.store, (w) => w.draft.typed?.map((t) => t.field) ?? []);
	const start = waiting.includes("start") ? undefined : faultAt(faults, "start");
	const end = waiting.includes("end") ? undefined : faultAt(faults, "end");
	const say = (local: string) => {
		const at = readLocal(local);
		if (!at) return "";
		const day = dayPart(local) === dayPart(draft.start) ? "" : `${dayNear(at.toPlainDate(), today)} `;
		return `${day}${clock(at)}`;
	};
	return (
		<>
			<FieldFault
				id="fault-start"
				sentence={start?.detail}
				fix={
					start?.fix && (
						<Mend
							words={`Did you mean ${say(start.fix)}?`}
							onUse={() => {
								const at = readLocal(start.fix ?? "");
								if (at) change(moveStart(draft, at));
							}}
						/>
					)
				}
			/>
			<FieldFault
				id="fault-end"
				sentence={end?.detail}
				fix={
					<>
						{end?.fix && <Mend words={`Did you mean ${say(end.fix)}?`} onUse={() => change({ end: end.fix })} />}
						{end?.long && (
							<Button look="bare" onClick={() => change({ longMeant: end.long })}>
								It does last that long
							</Button>
						)}
					</>
				}
			/>
		</>
	);
}

const Mend = ({ words, onUse }: { words: string; onUse: () => void }) => (
	<>
		{words}{" "}
		<Button look="bare" onClick={onUse}>
			Use it
		</Button>
	</>
);

/** What clocks show at the places of the others: "Tokyo 18:30, Nairobi 12:30". */
function elsewhere(start: Temporal.PlainDateTime, zone: string, others: string[]) {
	const at = instant(start, zone);
	if (!at) return "";
	const said = new Set<string>();
	for (const other of others) {
		if (!other || other === zone || sameClock(at, other, zone)) continue;
		const there = Temporal.Instant.from(at).toZonedDateTimeISO(other);
		const otherDay = there.toPlainDate().equals(start.toPlainDate()) ? "" : `${shortDay(there.toPlainDate())} `;
		said.add(`${city(other)} ${otherDay}${clock(there)}`);
	}
	return [...said].join(", ");
}
