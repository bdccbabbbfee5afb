import { memo } from "react";
import { Temporal } from "temporal-polyfill";
import { useSignedIn } from "../api/me";
import { ClockField, DayField } from "../time/fields";
import { city, clock, length, longDay, sameClock, shortDay } from "../time/format";
import { Button, FieldFault } from "../ui/kit";
import { PartRow } from "./PartRow";
import { faultAt, type Part } from "./part";
import { RepeatPart } from "./RepeatPart";
import { clockPart, dayPart, instant, moveStart, readLocal, settled, writeLocal } from "./when";

type Props = Part & { repeating: boolean; setRepeating: (open: boolean) => void };

export const WhenPart = memo(function WhenPart(part: Props) {
	const { draft, change, faults, day } = part;
	const me = useSignedIn();
	const time = settled(draft);
	const start = faultAt(faults, "start");
	const end = faultAt(faults, "end");
	const zone = faultAt(faults, "zone");
	const endElsewhere = dayPart(draft.end) !== dayPart(draft.start);
	const setDay = (d: string) => change(moveStart(draft, `${d}T${clockPart(draft.start)}`));
	return (
		<PartRow name="When">
			<div className="flex flex-wrap items-center gap-1.5">
				<DayField name="Day" day={dayPart(draft.start)} bad={!!start} fault="fault-start" onChange={setDay} />
				<ClockField
					name="Starts"
					local={draft.start}
					bad={!!start}
					fault="fault-start"
					onChange={(v) => change(moveStart(draft, v))}
				/>
				<span aria-hidden>–</span>
				<ClockField name="Ends" local={draft.end} bad={!!end} fault="fault-end" onChange={(v) => change({ end: v })} />
				<span className="text-quiet">{time && length(time.minutes)}</span>
			</div>
			{endElsewhere && (
				<div className="mt-1.5 flex items-center gap-1.5 text-small">
					<span className="text-quiet">ends on</span>
					<DayField
						name="Last day"
						day={dayPart(draft.end)}
						bad={!!end}
						fault="fault-end"
						onChange={(d) => change({ end: `${d}T${clockPart(draft.end)}` })}
					/>
				</div>
			)}
			<FieldFault id="fault-start" sentence={start?.detail} />
			<FieldFault
				id="fault-end"
				sentence={end?.detail}
				fix={end?.fix && <Fix local={end.fix} day={dayPart(draft.start)} onUse={() => change({ end: end.fix })} />}
			/>
			<RepeatPart {...part} open={part.repeating} setOpen={part.setRepeating} />
			<div className="mt-1 flex flex-wrap items-baseline gap-x-2 text-quiet text-small">
				<select
					aria-label="Time zone"
					className="max-w-[200px] rounded-[3px] border border-rule bg-white px-1 py-px"
					value={draft.zone}
					onChange={(e) => change({ zone: e.target.value })}
				>
					{zones(draft.zone, me.zone).map((z) => (
						<option key={z} value={z}>
							{z === me.zone ? `${city(z)} time` : z}
						</option>
					))}
				</select>
				<span>
					{time && elsewhere(time.start, draft.zone, [me.zone, ...(day?.lanes.map((l) => l.zone ?? "") ?? [])])}
				</span>
			</div>
			<FieldFault id="fault-zone" sentence={zone?.detail} />
		</PartRow>
	);
});

function Fix({ local, day, onUse }: { local: string; day: string; onUse: () => void }) {
	const at = readLocal(local);
	if (!at) return null;
	const where = dayPart(writeLocal(at)) === day ? "" : `${longDay(at.toPlainDate())} `;
	return (
		<>
			Did you mean {where}
			{clock(at)}?{" "}
			<Button look="bare" onClick={onUse}>
				Use it
			</Button>
		</>
	);
}

function zones(...first: string[]) {
	return [...new Set([...first, ...Intl.supportedValuesOf("timeZone"), "UTC"])];
}

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
