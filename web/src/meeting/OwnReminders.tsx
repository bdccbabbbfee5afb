import { X } from "lucide-react";
import { problemOf, type Schemas } from "../api/client";
import { BeforeStart, smallSelect } from "../ui/BeforeStart";
import { Button } from "../ui/kit";
import { useRemindMe } from "./deeds";

type Own = Schemas["OwnReminder"];

/** When somebody invited is reminded besides; they alone see it. */
export function OwnReminders({ m }: { m: Schemas["Meeting"] }) {
	const remind = useRemindMe(m.id);
	const kept = m.reminders ?? [];
	// The lines stay where they were put, while that is what is kept.
	const own = remind.variables;
	const all = own && (remind.isPending || same(own, kept)) ? own : kept;
	const put = (i: number, r: Own) => remind.mutate(all.with(i, r));
	return (
		<section aria-label="Reminders for you" className="text-small">
			{all.map((r, i) => (
				<fieldset
					// biome-ignore lint/suspicious/noArrayIndexKey: reminders have no name of their own
					key={i}
					aria-label={`Your reminder ${i + 1}`}
					className="mb-1 flex flex-wrap items-center gap-1"
				>
					<span className="text-quiet">Reminds you</span>
					<BeforeStart name="When" value={r.before} set={(before) => put(i, { ...r, before })} />
					<select
						aria-label="How"
						className={smallSelect}
						value={r.mail ? "mail" : "here"}
						onChange={(e) => put(i, { ...r, mail: e.target.value === "mail" })}
					>
						<option value="here">here</option>
						<option value="mail">by mail</option>
					</select>
					<Button
						look="bare"
						aria-label={`Take your reminder ${i + 1} off`}
						onClick={() => remind.mutate(all.toSpliced(i, 1))}
					>
						<X aria-hidden size={14} />
					</Button>
				</fieldset>
			))}
			<Button look="bare" onClick={() => remind.mutate([...all, free(all)])}>
				{all.length > 0 ? "Remind me again…" : "Remind me…"}
			</Button>
			{remind.error && (
				<p role="alert" className="mt-1 text-brick">
					{problemOf(remind.error).errors?.[0]?.detail ?? problemOf(remind.error).detail}
				</p>
			)}
		</section>
	);
}

const sorted = (all: Own[]) => all.map((r) => `${r.before} ${r.mail}`).sort();

const same = (a: Own[], b: Own[]) => String(sorted(a)) === String(sorted(b));

/** One that is not there yet. */
const free = (all: Own[]): Own =>
	[60, 1440, 30, 120, 10080]
		.map((before) => ({ before, mail: false }))
		.find((r) => !all.some((x) => x.before === r.before && x.mail === r.mail)) ?? { before: 5, mail: false };
