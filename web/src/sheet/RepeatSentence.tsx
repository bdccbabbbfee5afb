import { useState } from "react";
import type { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import {
	dayName,
	monthChoices,
	ordinal,
	readRule,
	type Sentence,
	type Unit,
	weekdayCodes,
	withUnit,
	writeRule,
} from "../series/rule";
import { dayWithYear, plainDate } from "../time/format";
import { type Term, t, term } from "../tongue/tongue";
import { fieldLook } from "../ui/kit";
import type { Part } from "./part";
import { TypedField } from "./TypedField";

type Repeat = Schemas["DraftRepeat"];

const units: [Unit, Term][] = [
	["DAILY", term("day")],
	["WEEKLY", term("week")],
	["MONTHLY", term("month")],
	["YEARLY", term("year")],
];

const blank = "field-sizing-content rounded-none border-fig border-b-2 bg-transparent py-0 font-[650] text-fig";

function Choice<T extends string | number>(props: {
	name: string;
	value: T;
	options: [T, string][];
	onChange: (v: T) => void;
}) {
	return (
		<select
			aria-label={props.name}
			className={blank}
			value={props.value}
			onChange={(e) => {
				const chosen = props.options.find(([v]) => String(v) === e.target.value);
				if (chosen) props.onChange(chosen[0]);
			}}
		>
			{props.options.map(([v, words]) => (
				<option key={v} value={v}>
					{words}
				</option>
			))}
		</select>
	);
}

type RuleProps = { repeat: Repeat; start: Temporal.PlainDate; set: (part: Partial<Repeat>) => void; bad: boolean };

/** "Every 2nd week on Mo Tu We", or an own rule in words. */
export function RuleWords({ repeat, start, set, bad }: RuleProps) {
	const sentence = readRule(repeat.rule);
	if (!sentence) return <OwnRule key={repeat.rule} repeat={repeat} set={set} bad={bad} />;
	const say = (part: Partial<Sentence>) => set({ rule: writeRule({ ...sentence, ...part }) });
	return (
		<>
			<span>{t("Every")}</span>
			<Choice
				name={t("Every how many")}
				value={sentence.every}
				options={Array.from({ length: Math.max(12, sentence.every) }, (_, i) => [
					i + 1,
					i === 0 ? "—" : ordinal(i + 1),
				])}
				onChange={(every) => say({ every })}
			/>
			<Choice
				name={t("Unit")}
				value={sentence.unit}
				options={units.map(([unit, words]) => [unit, t(words)])}
				onChange={(unit) => set({ rule: writeRule(withUnit(sentence, unit, start)) })}
			/>
			{sentence.unit === "WEEKLY" && <Weekdays sentence={sentence} say={say} />}
			{sentence.unit === "MONTHLY" && (
				<>
					<span>{t("on")}</span>
					<Choice
						name={t("Which day of the month")}
						value={sentence.on}
						options={monthChoices(start, sentence.on)}
						onChange={(on) => say({ on })}
					/>
				</>
			)}
		</>
	);
}

function Weekdays({ sentence, say }: { sentence: Sentence; say: (part: Partial<Sentence>) => void }) {
	return (
		<fieldset className="flex items-center gap-1">
			<legend className="float-left mr-1.5">{t("on")}</legend>
			{weekdayCodes.map((c) => {
				const on = sentence.days.includes(c);
				return (
					<button
						key={c}
						type="button"
						aria-pressed={on}
						className={`h-[24px] w-[27px] rounded-[3px] border font-sans text-[13px] ${on ? "border-fig bg-fig text-white" : "border-rule hover:border-ink"}`}
						onClick={() => {
							const days = on ? sentence.days.filter((d) => d !== c) : [...sentence.days, c];
							if (days.length > 0) say({ days });
						}}
					>
						<span aria-hidden>{dayName(c).slice(0, 2)}</span>
						<span className="sr-only">{dayName(c)}</span>
					</button>
				);
			})}
		</fieldset>
	);
}

/** Any rule, in words or as RFC 5545 writes it; it is taken when the field is left. */
function OwnRule({ repeat, set, bad }: Omit<RuleProps, "start">) {
	const [text, setText] = useState(repeat.rule);
	const take = () => text.trim() !== repeat.rule && set({ rule: text.trim() });
	return (
		<input
			aria-label={t("Own rule")}
			aria-invalid={bad}
			aria-describedby={bad ? "fault-repeat-rule" : undefined}
			placeholder={t("the last Friday of the month")}
			className={`${fieldLook(bad)} max-w-[360px] font-sans text-base`}
			value={text}
			onChange={(e) => setText(e.target.value)}
			onBlur={take}
			onKeyDown={(e) => e.key === "Enter" && take()}
		/>
	);
}

function dayOf(text: string) {
	const day = plainDate(text);
	return day ? dayWithYear(day) : text;
}

export function EndWords({ repeat, set, bad, part }: Omit<RuleProps, "start"> & { part: Part }) {
	return (
		<>
			<Choice
				name={t("How the series ends")}
				value={repeat.ends}
				options={[
					["on", t("until")],
					["after", t("for")],
					["open", t("without an end")],
				]}
				onChange={(ends) => set({ ends })}
			/>
			{repeat.ends === "on" && (
				<span className="font-sans text-base">
					<TypedField
						part={part}
						field="repeat.until"
						name={t("Last day of the series")}
						shown={dayOf(repeat.until)}
						bad={bad}
						fault="fault-repeat-end"
						className="max-w-[132px]"
					/>
				</span>
			)}
			{repeat.ends === "after" && (
				<>
					<input
						aria-label={t("Number of dates")}
						aria-invalid={bad}
						inputMode="numeric"
						className={`${fieldLook(bad)} max-w-[58px] font-sans text-base`}
						value={repeat.count || ""}
						onChange={(e) => set({ count: Number.parseInt(e.target.value, 10) || 0 })}
					/>
					<span>{t("dates")}</span>
				</>
			)}
		</>
	);
}
