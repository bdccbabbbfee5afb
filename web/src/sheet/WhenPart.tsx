import { useEffect, useState } from "react";
import { Temporal } from "temporal-polyfill";
import { useSignedIn } from "../api/me";
import { city, clock, length, longDay, sameClock, shortDay } from "../time/format";
import { parseClock } from "../time/parse";
import { Button, FieldFault, fieldLook } from "../ui/kit";
import { PartRow } from "./PartRow";
import { faultAt, type Part } from "./SheetPage";
import { clockPart, dayPart, instant, moveStart, readLocal, settled, writeLocal } from "./when";

export function WhenPart({ draft, change, faults, day }: Part) {
	const me = useSignedIn();
	const time = settled(draft);
	const start = faultAt(faults, "start");
	const end = faultAt(faults, "end");
	const zone = faultAt(faults, "zone");
	const endElsewhere = dayPart(draft.end) !== dayPart(draft.start);
	const setDay = (d: string) => d && change(moveStart(draft, `${d}T${clockPart(draft.start)}`));
	return (
		<PartRow name="When">
			<div className="flex flex-wrap items-center gap-1.5">
				<input
					type="date"
					aria-label="Day"
					aria-describedby={start && "fault-start"}
					className={`${fieldLook(!!start)} max-w-[134px]`}
					value={dayPart(draft.start)}
					onChange={(e) => setDay(e.target.value)}
				/>
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
					<label htmlFor="end-day">Ends on</label>
					<input
						id="end-day"
						type="date"
						className={`${fieldLook(!!end)} max-w-[134px]`}
						value={dayPart(draft.end)}
						onChange={(e) => e.target.value && change({ end: `${e.target.value}T${clockPart(draft.end)}` })}
					/>
				</div>
			)}
			<FieldFault id="fault-start" sentence={start?.detail} />
			<FieldFault
				id="fault-end"
				sentence={end?.detail}
				fix={end?.fix && <Fix local={end.fix} day={dayPart(draft.start)} onUse={() => change({ end: end.fix })} />}
			/>
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
}

/** A time typed in any common way; it is put right when the field is left. */
function ClockField(props: {
	name: string;
	local: string;
	bad: boolean;
	fault: string;
	onChange: (local: string) => void;
}) {
	const stored = clockPart(props.local);
	const [typed, setTyped] = useState<string | null>(null);
	// biome-ignore lint/correctness/useExhaustiveDependencies: a time set elsewhere shows here
	useEffect(() => setTyped(null), [stored]);
	const shown = typed ?? (parseClock(stored) ? stored.replace(/^0/, "") : stored);
	const take = (text: string) => {
		const at = `${dayPart(props.local)}T${parseClock(text) ?? text}`;
		if (at !== props.local) props.onChange(at);
		else setTyped(null);
	};
	return (
		<input
			aria-label={props.name}
			aria-invalid={props.bad}
			aria-describedby={props.bad ? props.fault : undefined}
			inputMode="numeric"
			className={`${fieldLook(props.bad)} max-w-[54px]`}
			value={shown}
			onChange={(e) => setTyped(e.target.value)}
			onBlur={() => typed !== null && take(typed)}
			onKeyDown={(e) => e.key === "Enter" && !e.ctrlKey && typed !== null && take(typed)}
		/>
	);
}

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
