import { type ReactNode, useState } from "react";
import { faultIn, problemOf } from "../api/client";
import { weekdayName } from "../time/format";
import { many, t } from "../tongue/tongue";
import { Button, FieldFault, fieldLook, Label, Note } from "../ui/kit";
import { useSay } from "../ui/notice";
import { type RoomChange, type RoomPage, useChangeRoom } from "./deeds";
import { People } from "./People";

type Rules = RoomChange["rules"];

/** From Monday on; the rules count from Sunday. */
const weekdays = [1, 2, 3, 4, 5, 6, 0];

/** What a room is like and by which rules it is booked, for who keeps it. What is typed is read by the program. */
export function RoomForm({ page, onDone }: { page: RoomPage; onDone: () => void }) {
	const [room, setRoom] = useState(page.settings);
	const [seats, setSeats] = useState(String(page.settings.seats));
	// The version that the form was begun on: somebody else may change the room meanwhile.
	const [version] = useState(page.version);
	const change = useChangeRoom(page.room.id);
	const say = useSay();
	const set = (part: Partial<RoomChange>) => setRoom((r) => ({ ...r, ...part }));
	const rule = (part: Partial<Rules>) => setRoom((r) => ({ ...r, rules: { ...r.rules, ...part } }));
	const problem = change.error ? problemOf(change.error) : null;
	const fault = (...fields: string[]) => faultIn(problem, ...fields);
	const r = room.rules;
	const save = () =>
		change.mutate(
			{ version, room: { ...room, seats: Number.parseInt(seats, 10) || 0 } },
			{
				onSuccess: () => {
					say(t("The room is kept as it is now."));
					onDone();
				},
			},
		);
	const text = (label: string, value: string, onChange: (v: string) => void, ...fields: string[]) => (
		<Field label={label} fault={fault(...fields)}>
			{(id, bad) => (
				<input id={id} className={fieldLook(bad)} value={value} onChange={(e) => onChange(e.target.value)} />
			)}
		</Field>
	);
	return (
		<form
			aria-label={t("Change %s", page.room.name)}
			className="mt-3 rounded-[4px] border border-ink bg-sheet px-4 py-3"
			onSubmit={(e) => {
				e.preventDefault();
				save();
			}}
		>
			{problem && !problem.errors?.length && <Note tone="brick">{problem.detail}</Note>}
			<div className="grid grid-cols-1 gap-x-4 gap-y-2 sm:grid-cols-[1fr_1fr_90px]">
				{text(t("Name"), room.name, (name) => set({ name }), "name")}
				{text(t("Floor"), room.floor, (floor) => set({ floor }), "floor")}
				{text(t("Seats"), seats, setSeats, "seats")}
			</div>
			<div className="mt-2 grid grid-cols-1 gap-x-4 gap-y-2 sm:grid-cols-2">
				{text(
					t("In it, with commas between"),
					room.equipment.join(", "),
					(v) => set({ equipment: v.split(",").map((e) => e.trimStart()) }),
					"equipment",
				)}
				{text(t("Its own link"), room.link, (link) => set({ link }), "link")}
			</div>
			<Field label={t("Getting there")} fault={fault("directions")}>
				{(id, bad) => (
					<textarea
						id={id}
						rows={2}
						className={fieldLook(bad)}
						value={room.directions}
						onChange={(e) => set({ directions: e.target.value })}
					/>
				)}
			</Field>
			<People
				label={t("Keepers")}
				none={t("Nobody is named: who keeps all rooms decides.")}
				people={room.keepers}
				fault={fault("keepers")}
				set={(keepers) => set({ keepers })}
			/>
			<h2 className="mt-3 font-[650] font-sans text-body">{t("Rules")}</h2>
			<div className="grid grid-cols-1 gap-x-4 gap-y-2 sm:grid-cols-2">
				<Choice
					label={t("Booked by")}
					value={r.by}
					onChange={(by) => rule({ by })}
					fault={fault("rules.by")}
					choices={[
						["everybody", t("everybody")],
						["site", t("people of %s", page.room.site)],
						["named", t("certain people")],
					]}
				/>
				{r.by !== "everybody" && (
					<Choice
						label={t("Others")}
						value={r.others}
						onChange={(others) => rule({ others })}
						choices={[
							["ask", t("ask its keeper")],
							["refuse", t("are refused")],
						]}
					/>
				)}
			</div>
			{r.by === "named" && (
				<People
					label={t("Who")}
					none={t("Name at least one.")}
					people={r.people}
					fault={fault("rules.people")}
					set={(people) => rule({ people })}
				/>
			)}
			<div className="mt-2 grid grid-cols-2 gap-x-4 gap-y-2 sm:grid-cols-4">
				{text(t("Longest booking"), r.longest, (longest) => rule({ longest }), "rules.longest")}
				{text(t("Days ahead"), r.ahead, (ahead) => rule({ ahead }), "rules.ahead")}
				{text(t("Between two bookings"), r.gap, (gap) => rule({ gap }), "rules.gap")}
				<Choice
					label={t("Series, clear dates")}
					value={String(r.share)}
					onChange={(share) => rule({ share: Number(share) })}
					fault={fault("rules.share")}
					choices={Array.from({ length: 11 }, (_, n) => [String(n), n === 0 ? t("any number") : t("%s of 10", n)])}
				/>
			</div>
			<fieldset className="mt-2">
				<legend className="mb-0.5 text-quiet text-small">{t("Open hours; all empty is always")}</legend>
				<div className="grid grid-cols-2 gap-x-3 gap-y-1.5 sm:grid-cols-4">
					{weekdays.map((at) => (
						<div key={at}>
							{text(
								weekdayName(at || 7),
								r.open[at] ?? "",
								(v) => rule({ open: r.open.map((o, i) => (i === at ? v : o)) }),
								`rules.open.${at}`,
							)}
						</div>
					))}
					<Check label={t("closed on public holidays")} on={r.holidays} set={(holidays) => rule({ holidays })} />
				</div>
				<FieldFault id="fault-open" sentence={fault("rules.open")} />
			</fieldset>
			<div className="mt-2">
				{text(t("Closed days, with commas between"), r.closed, (closed) => rule({ closed }), "rules.closed")}
			</div>
			<h2 className="mt-3 font-[650] font-sans text-body">{t("Its keeper agrees")}</h2>
			<div className="grid grid-cols-2 items-end gap-x-4 gap-y-2 sm:grid-cols-4">
				<Check label={t("to every booking")} on={r.agreeAlways} set={(agreeAlways) => rule({ agreeAlways })} />
				{text(t("to more than"), r.agreeAbove, (agreeAbove) => rule({ agreeAbove }), "rules.agreeAbove", "rules.agree")}
				{text(t("to what ends after"), r.agreeAfter, (agreeAfter) => rule({ agreeAfter }), "rules.agreeAfter")}
				<Choice
					label={t("No answer is a no after")}
					value={String(r.agreeWithin || 2)}
					onChange={(n) => rule({ agreeWithin: Number(n) })}
					fault={fault("rules.within")}
					choices={[1, 2, 3, 4, 5, 10].map((n) => [String(n), many(n, "1 working day", "%d working days")])}
				/>
			</div>
			<h2 className="mt-3 font-[650] font-sans text-body">{t("People outside")}</h2>
			<Check
				label={t("may ask for it by inviting it; its keeper answers")}
				on={r.outside ?? false}
				set={(outside) => rule({ outside })}
			/>
			<div className="mt-3 flex items-center gap-2">
				<Button look="go" type="submit" busy={change.isPending}>
					{t("Keep")}
				</Button>
				<Button onClick={onDone}>{t("Leave it as it was")}</Button>
				<span className="text-quiet text-small">{t("Bookings that are there stay.")}</span>
			</div>
		</form>
	);
}

let fields = 0;

function Field(props: { label: string; fault?: string; children: (id: string, bad: boolean) => ReactNode }) {
	const [id] = useState(() => `room-${++fields}`);
	return (
		<div className="min-w-0">
			<Label htmlFor={id}>{props.label}</Label>
			{props.children(id, !!props.fault)}
			<FieldFault id={`${id}-fault`} sentence={props.fault} />
		</div>
	);
}

function Choice<T extends string>(props: {
	label: string;
	value: T;
	onChange: (v: T) => void;
	fault?: string;
	choices: [T, string][];
}) {
	return (
		<Field label={props.label} fault={props.fault}>
			{(id, bad) => (
				<select
					id={id}
					className={fieldLook(bad)}
					value={props.value}
					onChange={(e) => props.onChange(e.target.value as T)}
				>
					{props.choices.map(([value, words]) => (
						<option key={value} value={value}>
							{words}
						</option>
					))}
				</select>
			)}
		</Field>
	);
}

const Check = ({ label, on, set }: { label: string; on: boolean; set: (on: boolean) => void }) => (
	<label className="flex items-center gap-1.5 self-end py-1">
		<input type="checkbox" className="accent-moss" checked={on} onChange={(e) => set(e.target.checked)} />
		{label}
	</label>
);
