import { memo, useRef } from "react";
import { Temporal } from "temporal-polyfill";
import { useSignedIn } from "../api/me";
import { city, clock, dayNear, length, sameClock, shortDay } from "../time/format";
import { useNow } from "../time/now";
import { many, t } from "../tongue/tongue";
import { Button, FieldFault } from "../ui/kit";
import { useWritten } from "./draft/useDraft";
import { PartRow } from "./PartRow";
import { faultAt, type Part } from "./part";
import { RepeatPart } from "./RepeatPart";
import { Readings, TypedField } from "./TypedField";
import { clockPart, dayPart, instant, moveStart, readLocal, settled, writeLocal } from "./when";
import { ZoneField } from "./ZoneField";

type Props = Part & { repeating: boolean; setRepeating: (open: boolean) => void };

export const WhenPart = memo(function WhenPart(part: Props) {
	const { draft, faults, day, sheet } = part;
	const me = useSignedIn();
	const today = useNow().toZonedDateTimeISO(me.zone).toPlainDate();
	const time = settled(draft);
	const [from, until] = [readLocal(draft.start), readLocal(draft.end)];
	const zone = faultAt(faults, "zone");
	const whole = draft.allDay === true;
	const endElsewhere = !whole && dayPart(draft.end) !== dayPart(draft.start);
	const last = whole ? until?.subtract({ days: 1 }) : until;
	return (
		<PartRow name="When">
			<div className="flex flex-wrap items-center gap-1">
				<TypedField
					part={part}
					field="day"
					name={t("Day")}
					shown={from ? dayNear(from.toPlainDate(), today) : dayPart(draft.start)}
					className={from && from.year !== today.year ? "max-w-[128px]" : "max-w-[95px]"}
				/>
				{whole ? (
					<>
						<span aria-hidden>–</span>
						<TypedField
							part={part}
							field="lastDay"
							name={t("Last day")}
							shown={last ? dayNear(last.toPlainDate(), today) : dayPart(draft.end)}
							className="max-w-[102px]"
						/>
					</>
				) : (
					<>
						<TypedField
							part={part}
							field="start"
							name={t("Starts")}
							shown={from ? clock(from) : clockPart(draft.start)}
							className="max-w-[55px]"
						/>
						<span aria-hidden>–</span>
						<TypedField
							part={part}
							field="end"
							name={t("Ends")}
							shown={until ? clock(until) : clockPart(draft.end)}
							className="max-w-[55px]"
						/>
					</>
				)}
				<Length part={part} minutes={time?.minutes ?? 0} />
			</div>
			{endElsewhere && (
				<div className="mt-1.5 flex items-center gap-1.5 text-small">
					<span className="text-quiet">{t("ends on")}</span>
					<TypedField
						part={part}
						field="lastDay"
						name={t("Last day")}
						shown={until ? dayNear(until.toPlainDate(), today) : dayPart(draft.end)}
						className="max-w-[132px]"
					/>
				</div>
			)}
			<WholeDays part={part} />
			<Readings part={part} fields={["day", "start", "end", "lastDay", "length"]} />
			<TimeFaults part={part} today={today} />
			{sheet.clocks && !whole && <p className="text-honey text-small">{sheet.clocks}</p>}
			<RepeatPart {...part} open={part.repeating} setOpen={part.setRepeating} />
			<div className="mt-1 flex flex-wrap items-baseline gap-x-2 text-quiet text-small">
				{!whole && <ZoneField part={part} own={me.zone} />}
				<span>
					{time &&
						!whole &&
						elsewhere(time.start, draft.zone, [me.zone, ...(day?.lanes.map((l) => l.zone ?? "") ?? [])])}
				</span>
			</div>
			<FieldFault id="fault-zone" sentence={zone?.detail} />
		</PartRow>
	);
});

const usual = ["15 min", "30 min", "45 min", "1 h", "1 h 30", "2 h", "3 h", "4 h"];
const usualDays = ["1 day", "2 days", "3 days", "5 days"];

/** How long it lasts, typed in any way or chosen; the start stays. */
function Length({ part, minutes }: { part: Part; minutes: number }) {
	const { draft, store } = part;
	const days = Math.round(minutes / 1440);
	const shown = minutes <= 0 ? "" : draft.allDay ? many(days, "%d day", "%d days") : length(minutes);
	return (
		<span className="flex items-center">
			<TypedField part={part} field="length" name={t("Length")} shown={shown} className="max-w-[64px]" />
			<select
				aria-label={t("Usual lengths")}
				className="w-[19px] cursor-pointer rounded-[3px] bg-transparent text-quiet text-small"
				value=""
				onChange={(e) => {
					store.type("length", e.target.value);
					store.left("length");
				}}
			>
				<option value="" disabled hidden />
				{(draft.allDay ? usualDays : usual).map((l) => (
					<option key={l}>{l}</option>
				))}
			</select>
		</span>
	);
}

/** Whether it takes whole days, and whether it takes people's time. */
function WholeDays({ part }: { part: Part }) {
	const { draft, change } = part;
	const timed = useRef({ start: draft.start, end: draft.end });
	if (!draft.allDay) timed.current = { start: draft.start, end: draft.end };
	const toggle = (whole: boolean) => {
		const [from, until] = [readLocal(draft.start), readLocal(draft.end)];
		if (!from || !until) return change({ allDay: whole });
		if (whole) {
			const midnight = until.hour === 0 && until.minute === 0 && !until.toPlainDate().equals(from.toPlainDate());
			const after = midnight ? until.toPlainDate() : until.toPlainDate().add({ days: 1 });
			return change({ allDay: true, start: `${from.toPlainDate()}T00:00`, end: `${after}T00:00` });
		}
		// The same times again, on the day that the sheet has now.
		const was = readLocal(timed.current.start);
		const start = from.toPlainDate().toPlainDateTime(was && !draft.scope ? was.toPlainTime() : "09:00");
		const minutes = Math.min(settled({ ...timed.current, zone: draft.zone })?.minutes ?? 60, 1440);
		change({
			allDay: false,
			start: writeLocal(start),
			end: writeLocal(start.add({ minutes: minutes < 1440 ? minutes : 60 })),
		});
	};
	const look = "flex items-center gap-1.5";
	return (
		<div className="mt-1 flex flex-wrap gap-x-4 text-quiet text-small">
			<label className={look}>
				<input type="checkbox" checked={draft.allDay === true} onChange={(e) => toggle(e.target.checked)} />
				{t("all day")}
			</label>
			<label className={look}>
				<input type="checkbox" checked={draft.free === true} onChange={(e) => change({ free: e.target.checked })} />
				{t("leaves time clear")}
			</label>
		</div>
	);
}

/** What is wrong with the time, and each way to mend it at one press. */
function TimeFaults({ part, today }: { part: Part; today: Temporal.PlainDate }) {
	const { draft, faults, change } = part;
	const waiting = useWritten(part.store, (w) => w.draft.typed?.map((t) => t.field) ?? []);
	const start = waiting.includes("start") ? undefined : faultAt(faults, "start");
	const end = waiting.includes("end") ? undefined : faultAt(faults, "end");
	const last = waiting.includes("lastDay") ? undefined : faultAt(faults, "lastDay");
	const say = (local: string) => {
		const at = readLocal(local);
		if (!at) return "";
		const day = dayPart(local) === dayPart(draft.start) ? "" : `${dayNear(at.toPlainDate(), today)} `;
		return draft.allDay ? dayNear(at.toPlainDate(), today) : `${day}${clock(at)}`;
	};
	return (
		<>
			<FieldFault
				id="fault-start"
				sentence={start?.detail}
				fix={
					start?.fix && (
						<Mend
							words={t("Did you mean %s?", say(start.fix))}
							onUse={() => {
								const at = readLocal(start.fix ?? "");
								if (at) change(moveStart(draft, at));
							}}
						/>
					)
				}
			/>
			<FieldFault
				id="fault-lastDay"
				sentence={last?.detail}
				fix={last?.fix && <Mend words={t("Make it one day?")} onUse={() => change({ end: last.fix })} />}
			/>
			<FieldFault
				id="fault-end"
				sentence={end?.detail}
				fix={
					<>
						{end?.fix && <Mend words={t("Did you mean %s?", say(end.fix))} onUse={() => change({ end: end.fix })} />}
						{end?.long && (
							<Button look="bare" onClick={() => change({ longMeant: end.long })}>
								{t("It does last that long")}
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
			{t("Use it")}
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
