import { useId } from "react";
import type { Schemas } from "../api/client";
import { t, term } from "../tongue/tongue";
import { Button, FieldFault } from "../ui/kit";
import { anotherTime, BeforeStart, ReminderRow } from "../ui/reminders";
import { faultAt, type Part } from "./part";

type Further = Schemas["Reminder"];

const ways = {
	all: term("in calendars"),
	own: term("to me alone"),
	mail: term("by mail to all"),
	ownMail: term("by mail to me"),
} as const;
type Way = keyof typeof ways;

const wayOf = (r: Further): Way => (r.own ? (r.mail ? "ownMail" : "own") : r.mail ? "mail" : "all");

/** When those who come are reminded: one reminder, and further ones. */
export function Reminders({ draft, change, faults }: Part) {
	const id = useId();
	const further = draft.reminders ?? [];
	const put = (i: number, r: Further) => change({ reminders: further.with(i, r) });
	return (
		<div className="flex w-full flex-col items-start gap-1">
			<span className="flex flex-wrap items-center gap-x-2">
				<label htmlFor={id}>{t("Remind")}</label>
				<BeforeStart
					id={id}
					value={draft.remindBefore}
					none={t("no reminder")}
					set={(remindBefore) => change({ remindBefore })}
				/>
				<Button
					look="bare"
					onClick={() =>
						change({ reminders: [...further, { before: anotherTime(further, 1440), own: false, mail: true }] })
					}
				>
					{t("and again")}
				</Button>
			</span>
			{further.map((r, i) => (
				<ReminderRow
					// biome-ignore lint/suspicious/noArrayIndexKey: reminders have no name of their own
					key={i}
					name={t("Reminder %s", i + 2)}
					off={t("Take reminder %s off", i + 2)}
					before={r.before}
					way={wayOf(r)}
					ways={ways}
					set={(before, way) => put(i, { before, own: way.startsWith("own"), mail: /mail$/i.test(way) })}
					drop={() => change({ reminders: further.toSpliced(i, 1) })}
				/>
			))}
			<FieldFault id="fault-remind" sentence={faultAt(faults, "remindBefore")?.detail} />
		</div>
	);
}
