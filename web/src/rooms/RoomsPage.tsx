import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { useOpenSheet } from "../sheet/open";
import { useKeys } from "../shell/keys";
import { useTitle } from "../shell/title";
import { clock, dayNear, inZone, plainDate } from "../time/format";
import { useNow } from "../time/now";
import { HourScale } from "../timeline/Hours";
import { hourOf, hoursFor, type Scale } from "../timeline/scale";
import { t } from "../tongue/tongue";
import { Button, Empty, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { type RoomToday, useRoomsDay, type Wish } from "./deeds";
import { RoomWish } from "./RoomWish";
import { TableDialog } from "./TableDialog";
import { Uses } from "./Uses";

const columns = "grid grid-cols-[264px_minmax(0,1fr)] max-sm:grid-cols-[112px_minmax(0,1fr)]";

/** All rooms of a day side by side: a stretch drawn in a row starts a sheet with that room and time. */
export function RoomsPage() {
	useTitle(t("Rooms"));
	const me = useSignedIn();
	const now = useNow();
	const today = now.toZonedDateTimeISO(me.zone).toPlainDate();
	const [params, setParams] = useSearchParams();
	const day = plainDate(params.get("day")) ?? today;
	const wish = wishOf(params);
	const rooms = useRoomsDay(day.toString(), wish);
	const set = (change: Record<string, string[] | string | number>) =>
		setParams(
			(p) => {
				for (const [name, value] of Object.entries(change)) {
					p.delete(name);
					for (const v of [value].flat()) if (v !== "" && v !== 0) p.append(name, String(v));
				}
				return p;
			},
			{ replace: true },
		);
	const go = (to: Temporal.PlainDate) => set({ day: to.equals(today) ? "" : to.toString() });
	const move = (days: number) => () => go(day.add({ days }));
	useKeys({ ArrowLeft: move(-1), ArrowRight: move(1), t: () => go(today) });
	const [table, setTable] = useState(false);
	const shown = rooms.data?.rooms ?? [];
	const scale: Scale = {
		day,
		zone: me.zone,
		...hoursFor(shown.flatMap((r) => r.taken.map((u) => hoursOf(u, day, me.zone)))),
	};
	return (
		<main className="w-full min-w-0 flex-1 px-5 py-3.5 max-sm:px-2">
			<div className="mb-2 flex flex-wrap items-center gap-2">
				<h1 className="text-[23px]">{t("Rooms")}</h1>
				<span className="mr-1.5 text-quiet">{dayNear(day, today)}</span>
				<Button aria-label={t("Day before")} onClick={move(-1)}>
					←
				</Button>
				<Button disabled={day.equals(today)} onClick={() => go(today)}>
					{t("Today")}
				</Button>
				<Button aria-label={t("Day after")} onClick={move(1)}>
					→
				</Button>
				<RoomWish wish={wish} set={set} />
				{me.keepsRooms && <Button onClick={() => setTable(true)}>{t("Table")}</Button>}
				<span role="status" className="ml-auto text-quiet text-small">
					{rooms.data && counts(shown, rooms.data.all)}
				</span>
			</div>
			{rooms.error && !rooms.data && <TryAgain error={rooms.error} again={() => rooms.refetch()} />}
			{rooms.isPending && <Skeleton lines={6} />}
			{rooms.data && shown.length === 0 && (
				<Empty title={t("No room has all of that.")}>
					{t("Ask for fewer seats, less equipment, or another place.")}
				</Empty>
			)}
			{shown.length > 0 && (
				<div className="overflow-hidden border border-rule bg-sheet">
					<div className={`${columns} h-[26px] border-rule border-b`}>
						<span />
						<HourScale scale={scale} />
					</div>
					{shown.map((r, i) => (
						<Placed key={r.room.id} before={shown[i - 1]} room={r}>
							<Row room={r} scale={scale} now={day.equals(today) ? now : null} />
						</Placed>
					))}
				</div>
			)}
			{table && <TableDialog onClose={() => setTable(false)} />}
		</main>
	);
}

const hoursOf = (u: Schemas["RoomUse"], day: Temporal.PlainDate, zone: string) => ({
	from: hourOf(u.start, day, zone),
	until: hourOf(u.end, day, zone),
});

function counts(shown: RoomToday[], all: number) {
	const clear = shown.filter((r) => r.clear).length;
	const fit = shown.length === all ? t("%s rooms", all) : t("%s of %s fit", shown.length, all);
	return shown.some((r) => r.clear !== undefined) ? t("%s · %s clear now", fit, clear) : fit;
}

/** A room below the name of its site and floor, where those begin. */
function Placed(props: { before: RoomToday | undefined; room: RoomToday; children: React.ReactNode }) {
	const { room } = props.room;
	const same = props.before?.room.siteId === room.siteId && props.before.room.floor === room.floor;
	return (
		<>
			{!same && (
				<h2 className="border-rule border-b bg-[#faf7f1] px-3.5 py-1 font-sans text-body">
					<b className="font-[650]">{room.site}</b> <span className="font-normal text-quiet">{room.floor}</span>
				</h2>
			)}
			{props.children}
		</>
	);
}

function Row({ room: r, scale, now }: { room: RoomToday; scale: Scale; now: Temporal.Instant | null }) {
	const open = useOpenSheet();
	const meet = (start: string, end: string) => open({ start, end, roomId: r.room.id });
	return (
		<section aria-label={r.room.name} className={`${columns} border-[#eae4d8] border-b last:border-b-0`}>
			<Head room={r} zone={scale.zone} onMeet={meet} />
			<Uses uses={r.taken} shut={r.shut} scale={scale} now={now} onDraw={meet} />
		</section>
	);
}

type HeadProps = { room: RoomToday; zone: string; onMeet: (start: string, end: string) => void };

function Head({ room: r, zone, onMeet }: HeadProps) {
	const local = (at: string) => inZone(at, zone).toPlainDateTime().toString({ smallestUnit: "minute" });
	const until = r.until ? clock(inZone(r.until, zone)) : "";
	return (
		<div className="min-w-0 py-1 pr-2 pl-3.5 max-sm:pl-2">
			<div className="flex items-baseline gap-1.5">
				<Link to={`/room/${r.room.id}`} className="min-w-0 truncate font-[650] text-ink no-underline hover:underline">
					{r.room.name}
				</Link>
				<span className="text-quiet">{r.room.seats}</span>
				{r.clear !== undefined && (
					<span
						className={`ml-auto whitespace-nowrap text-small max-sm:hidden ${r.clear ? "text-moss" : "text-quiet"}`}
					>
						{r.clear ? (until ? t("clear until %s", until) : t("clear")) : t("taken until %s", until)}
					</span>
				)}
			</div>
			<div className="flex items-baseline gap-1.5 text-quiet text-small">
				<span className="min-w-0 truncate max-sm:hidden" title={r.room.equipment.join(", ")}>
					{r.room.equipment.join(", ") || t("nothing in it")}
				</span>
				{r.next && (
					<Button
						look="bare"
						className="ml-auto max-sm:ml-0"
						onClick={() => r.next && onMeet(local(r.next.start), local(r.next.end))}
					>
						{t("meet at %s", clock(inZone(r.next.start, zone)))}
						<span className="sr-only"> {t("in %s", r.room.name)}</span>
					</Button>
				)}
			</div>
		</div>
	);
}

function wishOf(params: URLSearchParams): Wish {
	const number = (name: string) => Math.max(0, Number.parseInt(params.get(name) ?? "", 10) || 0);
	return {
		seats: Math.min(number("seats"), 100_000),
		equipment: params.getAll("equipment"),
		site: params.get("site") ?? "",
		clearFor: Math.min(number("clearFor"), 1440),
		floor: params.get("floor") ?? "",
	};
}
