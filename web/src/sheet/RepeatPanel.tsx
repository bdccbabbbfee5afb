import { memo, type ReactNode } from "react";
import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { phrases, readRule } from "../series/rule";
import { dayMonth, plainDate, shortDay } from "../time/format";
import { many, row, t } from "../tongue/tongue";
import { Button, FieldFault } from "../ui/kit";
import type { Part } from "./part";
import { EndWords, RuleWords } from "./RepeatSentence";
import { skippedWords } from "./repeatWords";
import { Readings, TypedField } from "./TypedField";
import { dayPart } from "./when";

type Repeat = Schemas["DraftRepeat"];
type Props = Part & { dates: Schemas["SheetDates"] | undefined; onClose: () => void };

/** The repetition as a sentence to fill in. */
export const RepeatPanel = memo(function RepeatPanel({ onClose, ...part }: Props) {
	const { draft, change, faults, dates } = part;
	const repeat = draft.repeat;
	const start = plainDate(dayPart(draft.start));
	if (!repeat || !start) return null;
	const set = (part: Partial<Repeat>) => change({ repeat: { ...repeat, ...part } });
	const fault = (field: string) => faults.find((f) => f.field === `repeat.${field}`)?.detail;
	return (
		<section aria-label={t("Repeats")} className="mb-3 rounded-[4px] border border-rule bg-sheet px-[18px] py-3">
			<div className="flex flex-wrap items-baseline gap-x-3">
				<h2 className="text-[17px]">{t("Repeats")}</h2>
				<Button look="bare" className="ml-auto text-small" onClick={() => change({ repeat: undefined, dates: [] })}>
					{t("Only once")}
				</Button>
				<Button look="bare" className="text-small" onClick={onClose}>
					{t("Done")}
				</Button>
			</div>
			<div className="mt-1.5 flex flex-wrap items-center gap-x-1.5 gap-y-2 font-display text-[16.5px]">
				<RuleWords repeat={repeat} start={start} set={set} bad={!!fault("rule")} />
				<span>{t("from %s", shortDay(start))}</span>
				<EndWords repeat={repeat} set={set} bad={!!fault("end")} part={part} />
			</div>
			<FieldFault id="fault-repeat-rule" sentence={fault("rule")} />
			<FieldFault id="fault-repeat-end" sentence={fault("end")} />
			<Readings part={part} fields={["repeat.until"]} />
			<p className="mt-2.5 flex flex-wrap items-center gap-1.5 text-small">
				<span className="text-quiet">{t("Or")}</span>
				{phrases(start).map(([rule, words]) => (
					<Phrase key={rule} on={repeat.rule === rule} onUse={() => set({ rule })}>
						{words}
					</Phrase>
				))}
				{readRule(repeat.rule) && (
					<Phrase on={false} onUse={() => set({ rule: dates?.ruleWords ?? "" })}>
						{t("own rule…")}
					</Phrase>
				)}
			</p>
			<Leaving part={part} repeat={repeat} set={set} countries={dates?.countries ?? []} fault={fault("days")} />
			<Once part={part} repeat={repeat} set={set} fault={fault("added")} />
			<Readings part={part} fields={["repeat.days", "repeat.added"]} />
			<Summary dates={dates} zone={draft.zone} />
		</section>
	);
});

function Phrase({ on, onUse, children }: { on: boolean; onUse: () => void; children: ReactNode }) {
	return (
		<button
			type="button"
			aria-pressed={on}
			className={`rounded-[3px] px-1.5 py-px ${on ? "bg-fig-wash text-fig" : "bg-slate-wash hover:bg-rule"}`}
			onClick={onUse}
		>
			{children}
		</button>
	);
}

type ListProps = { part: Part; repeat: Repeat; set: (part: Partial<Repeat>) => void; fault?: string };

/** What is left out: holidays, weekends, given days. */
function Leaving({ part, repeat, set, countries, fault }: ListProps & { countries: string[] }) {
	const holidays = countries.length > 0 ? t("public holidays in %s", row(countries)) : t("public holidays");
	return (
		<div className="mt-2.5 flex flex-wrap items-center gap-x-3.5 gap-y-1 text-body">
			<span className="text-quiet">{t("Leaving out")}</span>
			<label className="flex items-center gap-1.5">
				<input type="checkbox" checked={repeat.holidays} onChange={(e) => set({ holidays: e.target.checked })} />
				{holidays}
			</label>
			<label className="flex items-center gap-1.5">
				<input type="checkbox" checked={repeat.weekends} onChange={(e) => set({ weekends: e.target.checked })} />
				{t("weekends")}
			</label>
			<Days
				part={part}
				field="repeat.days"
				name={t("Leave out a day")}
				days={repeat.days}
				set={(days) => set({ days })}
			/>
			<FieldFault id="fault-repeat-days" sentence={fault} />
		</div>
	);
}

/** Once more on given days. */
function Once({ part, repeat, set, fault }: ListProps) {
	return (
		<div className="mt-1.5 flex flex-wrap items-center gap-x-3.5 gap-y-1 text-body">
			<span className="text-quiet">{t("Once more on")}</span>
			<Days
				part={part}
				field="repeat.added"
				name={t("Add a day")}
				days={repeat.added}
				set={(added) => set({ added })}
			/>
			<FieldFault id="fault-repeat-added" sentence={fault} />
		</div>
	);
}

type DaysProps = { part: Part; field: string; name: string; days: string[]; set: (days: string[]) => void };

function Days({ part, field, name, days, set }: DaysProps) {
	return (
		<span className="flex flex-wrap items-center gap-1.5">
			{days.map((d) => (
				<button
					key={d}
					type="button"
					className="rounded-[3px] bg-slate-wash px-1.5"
					onClick={() => set(days.filter((x) => x !== d))}
				>
					<span className="sr-only">{t("Take off")} </span>
					{dayWords(d)} <span aria-hidden>✕</span>
				</button>
			))}
			<TypedField part={part} field={field} name={name} placeholder={t("+ a day")} shown="" className="max-w-[102px]" />
		</span>
	);
}

function dayWords(text: string) {
	const day = plainDate(text);
	return day ? shortDay(day) : text;
}

/** "7 dates: 3 Dec, 17 Dec …", what is left out and why. */
function Summary({ dates, zone }: { dates: Schemas["SheetDates"] | undefined; zone: string }) {
	if (!dates || dates.dates.length === 0) return null;
	const there = dates.dates.filter((d) => d.state !== "out" && d.inScope);
	const shown = there
		.slice(0, 12)
		.map((d) => dayMonth(Temporal.Instant.from(d.start).toZonedDateTimeISO(zone).toPlainDate()));
	return (
		<p className="mt-2.5 text-quiet text-small" aria-live="polite">
			<b className="font-[650] text-ink">{dates.open ? t("No end.") : many(dates.count, "1 date", "%d dates")}</b>{" "}
			{shown.join(", ")}
			{(there.length > 12 || dates.more) && " …"}
			{dates.skipped.length > 0 && ` · ${t("left out: %s", skippedWords(dates.skipped))}`}
		</p>
	);
}
