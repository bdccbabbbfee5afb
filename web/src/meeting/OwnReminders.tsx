import { problemOf, type Schemas } from "../api/client";
import { t, term } from "../tongue/tongue";
import { Button } from "../ui/kit";
import { anotherTime, ReminderRow } from "../ui/reminders";
import { useRemindMe } from "./deeds";

const ways = { here: term("here"), mail: term("by mail") };

type Own = Schemas["OwnReminder"];

/** When somebody invited is reminded besides; they alone see it. */
export function OwnReminders({ m }: { m: Schemas["Meeting"] }) {
	const remind = useRemindMe(m.id);
	const kept = m.reminders ?? [];
	// The lines stay where they were put, while that is what is kept.
	const own = remind.variables;
	const all = own && (remind.isPending || same(own, kept)) ? own : kept;
	return (
		<section aria-label={t("Reminders for you")} className="flex flex-col items-start gap-1 text-small">
			{all.map((r, i) => (
				<ReminderRow
					// biome-ignore lint/suspicious/noArrayIndexKey: reminders have no name of their own
					key={i}
					name={t("Your reminder %s", i + 1)}
					off={t("Take your reminder %s off", i + 1)}
					before={r.before}
					way={r.mail ? "mail" : "here"}
					ways={ways}
					set={(before, way) => remind.mutate(all.with(i, { before, mail: way === "mail" }))}
					drop={() => remind.mutate(all.toSpliced(i, 1))}
				>
					<span className="text-quiet">{t("Reminds you")}</span>
				</ReminderRow>
			))}
			<Button look="bare" onClick={() => remind.mutate([...all, { before: anotherTime(all, 60), mail: false }])}>
				{all.length > 0 ? t("Remind me again…") : t("Remind me…")}
			</Button>
			{remind.error && (
				<p role="alert" className="mt-1 text-brick">
					{problemOf(remind.error).errors?.[0]?.detail ?? problemOf(remind.error).detail}
				</p>
			)}
		</section>
	);
}

const same = (a: Own[], b: Own[]) =>
	a.length === b.length && a.every((r) => b.some((o) => o.before === r.before && o.mail === r.mail));
