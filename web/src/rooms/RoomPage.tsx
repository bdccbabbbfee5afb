import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { Temporal } from "temporal-polyfill";
import { ProblemError } from "../api/client";
import { useSignedIn } from "../api/me";
import { useOpenSheet } from "../sheet/open";
import { useKeys } from "../shell/keys";
import { Lost } from "../shell/Lost";
import { useTitle } from "../shell/title";
import { clock, inZone, monday, month, plainDate, shortDay, shortMonth, weekday } from "../time/format";
import { useNow } from "../time/now";
import { HourScale } from "../timeline/Hours";
import { hourOf, hoursFor, type Scale } from "../timeline/scale";
import { many, t } from "../tongue/tongue";
import { Button, Plate, Skeleton } from "../ui/kit";
import { Linked } from "../ui/Linked";
import { TryAgain } from "../ui/TryAgain";
import { Asked } from "./Asked";
import { type RoomPage as Page, useRoom } from "./deeds";
import { RoomFeed } from "./RoomFeed";
import { RoomForm } from "./RoomForm";
import { Uses } from "./Uses";

/** One room: two weeks of it, what is in it and how it is booked; for who keeps it, what waits for an answer. */
export function RoomPage() {
	const { id = "" } = useParams();
	const me = useSignedIn();
	const today = useNow().toZonedDateTimeISO(me.zone).toPlainDate();
	const [params, setParams] = useSearchParams();
	const first = plainDate(params.get("from")) ?? monday(today);
	const room = useRoom(id, first.toString());
	useTitle(room.data?.room.name ?? t("Room"));
	const go = (to: Temporal.PlainDate) =>
		setParams(to.equals(monday(today)) ? {} : { from: to.toString() }, { replace: true });
	const move = (days: number) => () => go(first.add({ days }));
	useKeys({ ArrowLeft: move(-14), ArrowRight: move(14), t: () => go(monday(today)) });
	if (room.error instanceof ProblemError && [400, 404].includes(room.error.problem.status))
		return <Lost what={t("This room is not there")} />;
	if (room.error && !room.data)
		return (
			<main className="p-5">
				<TryAgain error={room.error} again={() => room.refetch()} />
			</main>
		);
	if (!room.data) return <Skeleton lines={8} />;
	return <View page={room.data} first={first} go={go} move={move} />;
}

type Props = {
	page: Page;
	first: Temporal.PlainDate;
	go: (to: Temporal.PlainDate) => void;
	move: (days: number) => () => void;
};

function View({ page, first, go, move }: Props) {
	const now = useNow();
	const { zone } = page;
	const today = now.toZonedDateTimeISO(zone).toPlainDate();
	const open = useOpenSheet();
	const [changing, setChanging] = useState(false);
	const { room } = page;
	return (
		<main className="grid w-full min-w-0 flex-1 grid-cols-1 content-start lg:grid-cols-[minmax(0,1fr)_352px]">
			<section aria-label={room.name} className="min-w-0 px-5 py-3.5 max-sm:px-2">
				<p className="text-quiet text-small">
					<Link to="/rooms">{t("Rooms")}</Link> / {room.site}, {room.floor}
				</p>
				<div className="flex flex-wrap items-center gap-2.5">
					<h1 className="break-words text-[27px] leading-[1.2]">{room.name}</h1>
					<Plate small>{many(room.seats, "1 seat", "%d seats")}</Plate>
					<span className={`text-small ${page.clear ? "text-moss" : "text-quiet"}`}>
						{!page.until
							? page.clear
								? t("clear now")
								: t("taken")
							: t(page.clear ? "clear until %s" : "taken until %s", untilWords(page.until, zone, today))}
					</span>
					<span className="ml-auto flex gap-2">
						{page.keeps && !changing && <Button onClick={() => setChanging(true)}>{t("Change the room")}</Button>}
						<Button look="go" onClick={() => open({ roomId: room.id })}>
							{t("Meet here")}
						</Button>
					</span>
				</div>
				<p className="text-quiet">
					{room.equipment.join(", ") || t("nothing in it")}
					{page.keepers.length > 0 &&
						` · ${page.keepers.length === 1 ? t("keeper %s", page.keepers[0]) : t("keepers %s", page.keepers.join(", "))}`}
				</p>
				{changing && <RoomForm page={page} onDone={() => setChanging(false)} />}
				<div className="mt-3 mb-1.5 flex items-center gap-2">
					<h2 className="text-[17px]">{t("Two weeks")}</h2>
					<span className="text-quiet text-small max-sm:hidden">{t("draw in a row to meet then")}</span>
					<Button className="ml-auto" aria-label={t("Two weeks before")} onClick={move(-14)}>
						←
					</Button>
					<Button disabled={first.equals(monday(today))} onClick={() => go(monday(today))}>
						{t("Today")}
					</Button>
					<Button aria-label={t("Two weeks after")} onClick={move(14)}>
						→
					</Button>
				</div>
				<Days page={page} today={today} now={now} />
				<h2 className="mt-4 text-[17px]">{t("How it is booked")}</h2>
				<ul className="mt-1">
					{page.rules.map((r) => (
						<li key={r}>{r}</li>
					))}
				</ul>
			</section>
			<aside className="border-rule bg-sheet px-[18px] py-4 lg:border-l">
				{page.keeps && <Asked asked={page.asked} zone={zone} />}
				{page.waiting.length > 0 && <WaitingFor page={page} />}
				{(page.directions || page.link || page.keeps) && (
					<>
						<h2 className="text-[17px]">{t("Getting there")}</h2>
						<p className="mt-1 whitespace-pre-line break-words">
							{page.directions ? (
								<Linked>{page.directions}</Linked>
							) : (
								<span className="text-quiet">{t("Nobody has written it down yet.")}</span>
							)}
						</p>
					</>
				)}
				{page.keeps && <RoomFeed id={room.id} />}
				{page.link && (
					<>
						<h2 className="mt-4 text-[17px]">{t("Its own link")}</h2>
						<p className="mt-1 break-words">
							<Linked>{page.link}</Linked>
						</p>
					</>
				)}
			</aside>
		</main>
	);
}

/** Who waits for the room, and for when. */
function WaitingFor({ page }: { page: Page }) {
	return (
		<section aria-label={t("Waiting for it")} className="mb-5">
			<h2 className="text-[17px]">{t("Waiting for it")}</h2>
			<ul className="mt-1 text-small">
				{page.waiting.map((w) => {
					const start = inZone(w.start, page.zone);
					return (
						<li key={`${w.name} ${w.start}`}>
							{shortDay(start.toPlainDate())}, {clock(start)} – {clock(inZone(w.end, page.zone))}: {w.name}
						</li>
					);
				})}
			</ul>
		</section>
	);
}

const columns = "grid grid-cols-[96px_minmax(0,1fr)] max-sm:grid-cols-[58px_minmax(0,1fr)]";

function Days({ page, today, now }: { page: Page; today: Temporal.PlainDate; now: Temporal.Instant }) {
	const open = useOpenSheet();
	const { zone } = page;
	const hours = hoursFor(
		page.days.flatMap((d) => {
			const day = Temporal.PlainDate.from(d.day);
			return d.taken.map((u) => ({ from: hourOf(u.start, day, zone), until: hourOf(u.end, day, zone) }));
		}),
	);
	const scaleOf = (day: Temporal.PlainDate): Scale => ({ day, zone, ...hours });
	return (
		<div className="overflow-hidden border border-rule bg-sheet">
			<div className={`${columns} h-[26px] border-rule border-b`}>
				<span />
				<HourScale scale={hours} />
			</div>
			{page.days.map((d) => {
				const day = Temporal.PlainDate.from(d.day);
				return (
					<section
						key={d.day}
						aria-label={`${weekday(day)} ${day.day} ${month(day)}`}
						className={`${columns} border-[#eae4d8] border-b last:border-b-0 ${day.equals(today) ? "bg-[linear-gradient(90deg,var(--color-moss-wash),transparent_140px)]" : ""}`}
					>
						<div className="py-2.5 pl-3 max-sm:pl-2">
							<b className="font-[650]">{day.day}</b> {weekday(day)}
							{day.day === 1 && <span className="text-quiet text-small"> {shortMonth(day)}</span>}
						</div>
						<Uses
							uses={d.taken}
							shut={d.shut}
							scale={scaleOf(day)}
							now={day.equals(today) ? now : null}
							empty={d.closed ? t("closed") : day.dayOfWeek > 5 ? "" : t("clear all day")}
							onDraw={(start, end) => open({ start, end, roomId: page.room.id })}
						/>
					</section>
				);
			})}
		</div>
	);
}

function untilWords(until: string, zone: string, today: Temporal.PlainDate) {
	const at = inZone(until, zone);
	const day = at.toPlainDate();
	return day.equals(today) ? clock(at) : `${weekday(day)} ${clock(at)}`;
}
