import { useState } from "react";
import { Temporal } from "temporal-polyfill";
import { faultIn, problemOf, type Schemas } from "../api/client";
import { dayMonth, dayNear, plainDate, shortMonth } from "../time/format";
import { many, t } from "../tongue/tongue";
import { Button, Empty, FieldFault, fieldLook, Label, Note } from "../ui/kit";
import { useSay } from "../ui/notice";
import { Question } from "../ui/Question";
import { DayTrack, type Shown } from "./DayTrack";
import { stretchesOf, written } from "./day";
import { useDropDay, useEnterLeave, useSetDay, useTakeLeaveBack } from "./deeds";
import { LeaveMeetings } from "./LeaveMeetings";
import { columns } from "./WorkWeek";

/** What is ahead and no usual day: holidays, hours of single days, leave; the earliest first. */
export function OtherDays({ page, shown }: { page: Schemas["HoursPage"]; shown: Shown }) {
	const [asks, setAsks] = useState<"leave" | "day" | null>(null);
	const [look, setLook] = useState<string | null>(null);
	const [all, setAll] = useState(false);
	const back = useTakeLeaveBack();
	const drop = useDropDay();
	const today = plainDate(page.today) as Temporal.PlainDate;
	const rows = [
		...page.holidays.map((h) => ({ from: h.day, what: "holiday" as const, holiday: h })),
		...page.other.map((o) => ({ from: o.day, what: "day" as const, day: o })),
		...page.leave.map((l) => ({ from: l.first, what: "leave" as const, leave: l })),
	].sort((a, b) => (a.from < b.from ? -1 : 1));
	const near = all ? rows : rows.filter((r, i) => r.what !== "holiday" || i < few);
	const problem = back.error ?? drop.error;
	return (
		<section className="mt-4">
			<div className="flex flex-wrap items-end gap-2">
				<h2 className="text-[17px]">{t("Other days")}</h2>
				<Button className="ml-auto" onClick={() => setAsks("leave")}>
					{t("Leave")}
				</Button>
				<Button onClick={() => setAsks("day")}>{t("Other hours on one day")}</Button>
			</div>
			{problem && (
				<div className="mt-2">
					<Note tone="brick">{problemOf(problem).detail}</Note>
				</div>
			)}
			<div className="mt-2 border border-rule bg-sheet">
				{rows.length === 0 && (
					<Empty title={t("Every day is as usual.")}>
						{t("Leave and hours of single days stand here, and public holidays.")}
					</Empty>
				)}
				{near.map((r) => (
					<div key={`${r.what} ${r.from}`} className={columns} data-other={r.from}>
						<div className="py-1.5 pl-2.5 leading-tight">
							{r.what === "leave" ? dates(r.leave, today) : <Dates first={r.from} today={today} />}
						</div>
						{r.what === "day" ? (
							<DayTrack label={r.from} hours={stretchesOf(r.day.hours)} shown={shown} />
						) : (
							<div className="h-10 border-rule border-l py-1.5">
								<i aria-hidden className="mark-leave block h-full rounded-[2px]" />
							</div>
						)}
						<div className="px-2.5 py-1 text-body leading-[1.35] max-sm:col-start-2">
							{r.what === "holiday" && <span className="text-quiet">{t("public holiday, %s", r.holiday.name)}</span>}
							{r.what === "day" && (
								<>
									{written(stretchesOf(r.day.hours)) || t("off")}
									{r.day.word && <span className="text-quiet"> · {r.day.word}</span>}{" "}
									<Button
										look="bare"
										className="-ml-1"
										onClick={() => drop.mutate({ version: page.version, day: r.day.day })}
									>
										{t("take back")}
										<span className="sr-only"> {t("the hours of %s", r.day.day)}</span>
									</Button>
								</>
							)}
							{r.what === "leave" && (
								<>
									{many(r.leave.workingDays, "leave, 1 working day", "leave, %d working days")}
									{r.leave.word && <span className="text-quiet"> · {r.leave.word}</span>}
									<br />
									{r.leave.meetings > 0 && (
										<Button look="bare" className="-ml-1" onClick={() => setLook(r.leave.id)}>
											{many(r.leave.meetings, "1 meeting lies in it", "%d meetings lie in it")}
										</Button>
									)}
									<Button
										look="bare"
										className={r.leave.meetings > 0 ? "" : "-ml-1"}
										onClick={() => back.mutate(r.leave.id)}
									>
										{t("take back")}
										<span className="sr-only"> {t("the leave from %s", r.leave.first)}</span>
									</Button>
								</>
							)}
						</div>
					</div>
				))}
			</div>
			{near.length < rows.length && (
				<Button look="bare" className="mt-1" onClick={() => setAll(true)}>
					{t("all public holidays of the next twelve months")}
				</Button>
			)}
			{asks === "leave" && (
				<EnterLeave
					onClose={() => setAsks(null)}
					onEntered={(leave) => {
						setAsks(null);
						if (leave.items.length > 0) setLook(leave.id);
					}}
				/>
			)}
			{asks === "day" && <OtherHours version={page.version} onClose={() => setAsks(null)} />}
			{look && <LeaveMeetings id={look} onClose={() => setLook(null)} />}
		</section>
	);
}

/** How many rows stand here before holidays are left out. */
const few = 4;

const Dates = ({ first, today }: { first: string; today: Temporal.PlainDate }) => {
	const day = plainDate(first);
	return day && <span>{dayNear(day, today)}</span>;
};

/** "21 – 31 Dec", "30 Dec – 4 Jan" */
function dates(l: { first: string; last: string }, today: Temporal.PlainDate) {
	const [a, b] = [Temporal.PlainDate.from(l.first), Temporal.PlainDate.from(l.last)];
	if (a.equals(b)) return dayNear(a, today);
	if (a.year === b.year && a.month === b.month) return `${a.day} – ${b.day} ${shortMonth(b)}`;
	return `${dayMonth(a)} – ${dayMonth(b)}`;
}

type Field = { name: string; label: string; hint: string; value: string; set: (v: string) => void; fault?: string };

const Typed = ({ name, label, hint, value, set, fault }: Field) => (
	<div className="min-w-0 flex-1">
		<Label htmlFor={`asked-${name}`}>{label}</Label>
		<input
			id={`asked-${name}`}
			autoComplete="off"
			placeholder={hint}
			aria-invalid={!!fault}
			aria-describedby={`fault-asked-${name}`}
			className={`${fieldLook(!!fault)} placeholder:text-quiet`}
			value={value}
			onChange={(e) => set(e.target.value)}
		/>
		<FieldFault id={`fault-asked-${name}`} sentence={fault} />
	</div>
);

function EnterLeave(props: { onClose: () => void; onEntered: (leave: Schemas["LeaveMeetings"]) => void }) {
	const enter = useEnterLeave();
	const [first, setFirst] = useState("");
	const [last, setLast] = useState("");
	const [word, setWord] = useState("");
	const problem = enter.error && problemOf(enter.error);
	const fault = (field: string) => faultIn(problem, field);
	return (
		<Question title={t("Leave")} onClose={props.onClose}>
			<form
				className="mt-2 flex flex-col gap-2.5"
				onSubmit={(e) => {
					e.preventDefault();
					enter.mutate({ first, last, word }, { onSuccess: props.onEntered });
				}}
			>
				<div className="flex gap-2.5">
					<Typed
						name="first"
						label={t("First day")}
						hint={t("21 Dec")}
						value={first}
						set={setFirst}
						fault={fault("first")}
					/>
					<Typed
						name="last"
						label={t("Last day")}
						hint={t("the same")}
						value={last}
						set={setLast}
						fault={fault("last")}
					/>
				</div>
				<Typed name="word" label={t("Note, for you alone")} hint="" value={word} set={setWord} fault={fault("word")} />
				{problem && !problem.errors && <Note tone="brick">{problem.detail}</Note>}
				<p className="text-quiet text-small">
					{t("Others see that you are on leave. Meetings that lie in it are shown next.")}
				</p>
				<div className="flex gap-2">
					<Button look="go" type="submit" busy={enter.isPending}>
						{t("Enter leave")}
					</Button>
					<Button onClick={props.onClose}>{t("Close")}</Button>
				</div>
			</form>
		</Question>
	);
}

function OtherHours({ version, onClose }: { version: number; onClose: () => void }) {
	const set = useSetDay();
	const say = useSay();
	const [day, setDay] = useState("");
	const [hours, setHours] = useState("");
	const [word, setWord] = useState("");
	const problem = set.error && problemOf(set.error);
	const fault = (field: string) => faultIn(problem, field);
	return (
		<Question title={t("Other hours on one day")} onClose={onClose}>
			<form
				className="mt-2 flex flex-col gap-2.5"
				onSubmit={(e) => {
					e.preventDefault();
					set.mutate(
						{ version, day: day.trim() || "?", hours, word },
						{
							onSuccess: () => {
								say(t("The day has hours of its own"));
								onClose();
							},
						},
					);
				}}
			>
				<div className="flex gap-2.5">
					<Typed name="day" label={t("Day")} hint={t("3 Dec")} value={day} set={setDay} fault={fault("day")} />
					<Typed
						name="hours"
						label={t("Hours")}
						hint={t("14 – 18, or nothing")}
						value={hours}
						set={setHours}
						fault={fault("hours")}
					/>
				</div>
				<Typed
					name="word"
					label={t("Note, for you alone")}
					hint={t("dentist")}
					value={word}
					set={setWord}
					fault={fault("word")}
				/>
				{problem && !problem.errors && <Note tone="brick">{problem.detail}</Note>}
				<div className="flex gap-2">
					<Button look="go" type="submit" busy={set.isPending}>
						{t("Keep")}
					</Button>
					<Button onClick={onClose}>{t("Close")}</Button>
				</div>
			</form>
		</Question>
	);
}
