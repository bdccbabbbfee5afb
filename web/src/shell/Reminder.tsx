import { X } from "lucide-react";
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { Temporal } from "temporal-polyfill";
import { useSignedIn } from "../api/me";
import { clock, dayNear, inZone, length, minutesUntil } from "../time/format";
import { useNow } from "../time/now";
import { type TodayItem, useToday } from "../today/deeds";
import { t } from "../tongue/tongue";
import { Button, lookOf } from "../ui/kit";

/** From so long before, the day is said and not how long it is until then; in minutes. */
const soonAt = 12 * 60;

/** So long after its start nobody is reminded any more, in minutes. */
const late = 5;

const nameOf = (i: TodayItem, at: string) => `reminded ${i.meetingId ?? i.invitationId} ${i.start} ${at}`;

/** What was closed, or told in the background, in any window of this browser. */
const known = (key: string) => localStorage.getItem(key) !== null;

/** What is over is not remembered: a day after its start nobody is reminded of it. */
function forgetOld(now: Temporal.Instant) {
	for (const key of Object.keys(localStorage)) {
		const start = key.startsWith("reminded ") ? key.split(" ")[2] : undefined;
		if (start && now.since(Temporal.Instant.from(start)).total("hours") > 24) localStorage.removeItem(key);
	}
}

/** What is next, when it is time to be reminded of it; at most one thing, in the head of every page. */
export function Reminder() {
	const today = useToday();
	const now = useNow();
	const { zone } = useSignedIn();
	const [closed, setClosed] = useState("");
	// biome-ignore lint/correctness/useExhaustiveDependencies: once a window
	useEffect(() => forgetOld(now), []);
	const minutes = (at: string) => minutesUntil(at, now);
	/** The last of its reminders that has come. */
	const come = (i: TodayItem) => i.reminders.findLast((at) => minutes(at) <= 0);
	const due = [...(today.data?.items ?? []), ...(today.data?.reminded ?? [])].find((i) => {
		const at = come(i);
		return at && minutes(i.start) > -late && nameOf(i, at) !== closed && !known(nameOf(i, at));
	});
	const name = due && nameOf(due, come(due) ?? "");
	const left = due ? minutes(due.start) : 0;
	const soon =
		left > soonAt && due
			? far(inZone(due.start, zone), now.toZonedDateTimeISO(zone))
			: left > 0
				? t("in %s", length(left))
				: t("now");
	useBackground(due, name, soon);
	if (!due || !name) return null;
	const to = due.invitationId ? `/invitation/${due.invitationId}` : `/meeting/${due.meetingId}?date=${due.on}`;
	const close = () => {
		localStorage.setItem(name, "closed");
		setClosed(name);
	};
	return (
		<div
			role="status"
			aria-label={t("Reminder")}
			className="flex min-w-0 max-w-[330px] items-center gap-1.5 rounded-[4px] border-[1.5px] border-fig bg-fig-wash py-0.5 pr-0.5 pl-2"
		>
			<span className="shrink-0 text-small">{soon}</span>
			<Link to={to} className="min-w-0 truncate font-[650] text-ink no-underline hover:underline">
				{due.title}
			</Link>
			{due.join && (
				<a href={due.join} className={lookOf("bare")}>
					{t("Join")}
				</a>
			)}
			<Button look="bare" aria-label={t("Close the reminder")} onClick={close}>
				<X aria-hidden size={14} />
			</Button>
		</div>
	);
}

/** "tomorrow 9:30", "Thu 3 Dec 9:30" */
function far(start: Temporal.ZonedDateTime, now: Temporal.ZonedDateTime) {
	const [day, today] = [start.toPlainDate(), now.toPlainDate()];
	return `${day.equals(today.add({ days: 1 })) ? "tomorrow" : dayNear(day, today)} ${clock(start)}`;
}

/** The same by the browser itself, once, where its owner let it and nobody looks at any window. */
function useBackground(due: TodayItem | undefined, key: string | undefined, soon: string) {
	useEffect(() => {
		if (!due || !key || !("Notification" in window) || Notification.permission !== "granted" || !document.hidden)
			return;
		const told = `${key} told`;
		if (known(told)) return;
		localStorage.setItem(told, "told");
		const note = new Notification(`${due.title}, ${soon}`, { body: due.room ?? "", tag: key, silent: true });
		note.onclick = () => window.focus();
	}, [due, key, soon]);
}
