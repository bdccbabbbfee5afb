import { X } from "lucide-react";
import { useId } from "react";
import type { Schemas } from "../api/client";
import { BeforeStart, smallSelect } from "../ui/BeforeStart";
import { Button, FieldFault } from "../ui/kit";
import { faultAt, type Part } from "./part";

type Further = Schemas["Reminder"];

const ways = { all: "in calendars", own: "to me alone", mail: "by mail to all", "own mail": "by mail to me" } as const;
type Way = keyof typeof ways;

const wayOf = (r: Further): Way => (r.own ? (r.mail ? "own mail" : "own") : r.mail ? "mail" : "all");

/** When those who come are reminded: one reminder, and further ones. */
export function Reminders({ draft, change, faults }: Part) {
	const id = useId();
	const further = draft.reminders ?? [];
	const put = (i: number, r: Further) => change({ reminders: further.with(i, r) });
	return (
		<div className="flex w-full flex-col items-start gap-1">
			<span className="flex flex-wrap items-center gap-x-2">
				<label htmlFor={id}>Remind</label>
				<BeforeStart
					id={id}
					value={draft.remindBefore}
					none="no reminder"
					set={(remindBefore) => change({ remindBefore })}
				/>
				{further.length < 4 && (
					<Button
						look="bare"
						onClick={() => change({ reminders: [...further, { before: 1440, own: false, mail: true }] })}
					>
						and again
					</Button>
				)}
			</span>
			{further.map((r, i) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: reminders have no name of their own
				<fieldset key={i} aria-label={`Reminder ${i + 2}`} className="flex flex-wrap items-center gap-1">
					<BeforeStart name="When" value={r.before} set={(before) => put(i, { ...r, before })} />
					<select
						aria-label="How"
						className={smallSelect}
						value={wayOf(r)}
						onChange={(e) => {
							const way = e.target.value as Way;
							put(i, { ...r, own: way.startsWith("own"), mail: way.endsWith("mail") });
						}}
					>
						{Object.entries(ways).map(([way, words]) => (
							<option key={way} value={way}>
								{words}
							</option>
						))}
					</select>
					<Button
						look="bare"
						aria-label={`Take reminder ${i + 2} off`}
						onClick={() => change({ reminders: further.toSpliced(i, 1) })}
					>
						<X aria-hidden size={14} />
					</Button>
				</fieldset>
			))}
			<FieldFault id="fault-remind" sentence={faultAt(faults, "remindBefore")?.detail} />
		</div>
	);
}
