import { CalendarDays, Eye } from "lucide-react";
import { type RefObject, useMemo } from "react";
import type { Schemas } from "../api/client";
import { clock, inZone } from "../time/format";
import { wordsWidth } from "../timeline/measure";
import { percent, type Scale } from "../timeline/scale";
import { type Placed, usePlaced } from "../timeline/usePlaced";
import { t, term } from "../tongue/tongue";

/** Something beside one's meetings: the time of somebody watched, or an entry of another calendar of one's own. */
type Thing = { key: string; start: string; end: string; words: string; title: string; mark: string; watched: boolean };

/** How much room a lane of them takes. */
export const besideHeight = 23;

const font = "400 12px 'Atkinson Hyperlegible Next Variable'";

/** What stands beside the meetings of a day, in lanes. */
export function useBeside(
	track: RefObject<HTMLElement | null>,
	week: Schemas["Week"],
	watched: Schemas["WatchedTime"][],
	scale: Scale,
) {
	const things = useMemo(() => [...entries(week), ...times(watched, week.zone)], [week, watched]);
	return usePlaced(track, things, scale, (t) => wordsWidth(t.words, font) + 24);
}

function entries(week: Schemas["Week"]): Thing[] {
	return week.entries.map((e) => ({
		key: `${e.calendar} ${e.start} ${e.title}`,
		start: e.start,
		end: e.end,
		words: e.title || e.calendar,
		title: t(
			e.counts && e.kind !== "free" ? "%s, %s, in %s" : "%s, %s, in %s, makes nobody busy",
			e.title || t("Busy"),
			span(e, week.zone),
			e.calendar,
		),
		mark: !e.counts || e.kind === "free" ? "mark-declined" : e.kind === "maybe" ? "mark-busy-maybe" : "mark-busy",
		watched: false,
	}));
}

const said = { busy: term("busy"), maybe: term("maybe"), leave: term("on leave") };
const marks = { busy: "mark-busy", maybe: "mark-busy-maybe", leave: "mark-leave" } as const;

function times(watched: Schemas["WatchedTime"][], zone: string): Thing[] {
	return watched.flatMap((w) =>
		w.times.map((x) => ({
			key: `${w.email} ${x.start} ${x.title}`,
			start: x.start,
			end: x.end,
			words: x.title ? `${shortName(w, watched)}: ${x.title}` : `${shortName(w, watched)} ${t(said[x.kind])}`,
			title: t("%s, %s: %s. Watched, not invited.", w.name, span(x, zone), x.title || t(said[x.kind])),
			mark: marks[x.kind],
			watched: true,
		})),
	);
}

const span = (s: Schemas["Span"], zone: string) => `${clock(inZone(s.start, zone))} – ${clock(inZone(s.end, zone))}`;

/** The first name, where it is the only one; of a room all of it. */
export function shortName(w: Schemas["WatchedTime"], all: Schemas["WatchedTime"][]) {
	const first = w.name.split(" ")[0] ?? w.name;
	const others = all.filter((x) => x.personId && x.name.split(" ")[0] === first);
	return w.personId && others.length < 2 ? first : w.name;
}

/** Slim bars with small words: they are looked at, and nothing of them is invited or booked. */
export function Beside(props: { beside: { placed: Placed<Thing>[]; width: number }; top: number; scale: Scale }) {
	const { beside, top } = props;
	if (beside.width === 0) return null;
	return beside.placed.map(({ thing: t, at, lane, shift }) => (
		<div
			key={t.key}
			title={t.title}
			data-beside={t.watched ? "watched" : "entry"}
			className="pointer-events-none absolute"
			style={{
				left: at.left === 1 ? "calc(100% - 6px)" : percent(at.left),
				width: `calc(${percent(at.width)} - 2px)`,
				top: top + lane * besideHeight,
				minWidth: 4,
			}}
		>
			<i aria-hidden className={`block h-[5px] rounded-[2px] ${t.mark}`} />
			<span
				className="relative inline-flex items-center gap-1 whitespace-nowrap bg-sheet pr-1 text-[12px] text-quiet leading-[16px]"
				style={{ marginLeft: -shift, maxWidth: beside.width }}
			>
				{t.watched ? <Eye aria-hidden size={11} /> : <CalendarDays aria-hidden size={11} />}
				<span className="min-w-0 truncate">{t.words}</span>
				<span className="sr-only">, {t.title}</span>
			</span>
		</div>
	));
}
