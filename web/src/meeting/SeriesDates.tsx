import type { Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { type Cell, DateButton } from "../series/Bracket";
import { clock, dayInRow, inZone, shortDay } from "../time/format";
import { t } from "../tongue/tongue";

type Meeting = Schemas["Meeting"];
type SeriesDate = Schemas["SeriesDate"];

const looks: Record<SeriesDate["state"], string> = {
	held: "bg-paper text-quiet",
	coming: "bg-white",
	noroom: "bg-brick-wash",
	off: "bg-paper text-quiet",
};

/** A date of a running series as a cell of the strip. */
export function seriesCell(d: SeriesDate, zone: string, m: Pick<Meeting, "start" | "series">): Cell {
	const at = inZone(d.start, zone);
	const usual = inZone(m.start, zone);
	const first = inZone(m.series?.dates[0]?.start ?? m.start, zone).toPlainDate();
	const own = clock(at) !== clock(usual);
	return {
		key: d.on,
		day: d.on,
		fixed: d.state === "held" || d.state === "off",
		look: looks[d.state],
		label: shortDay(at.toPlainDate()),
		content: (
			<>
				<b
					className={`block text-small ${d.state === "off" ? "line-through" : ""} ${d.state === "held" ? "font-normal" : "font-[650]"}`}
				>
					{dayInRow(at.toPlainDate(), first)} {own && <span className="font-normal">{clock(at)}</span>}
				</b>
				<span className={`block text-[12px] leading-[1.3] ${d.state === "noroom" ? "text-brick" : "text-quiet"}`}>
					{[stateWords(d), d.words].filter(Boolean).join(", ")}
				</span>
			</>
		),
	};
}

/** "3 accepted", "2 silent", "held". */
function stateWords(d: SeriesDate) {
	if (d.state === "held") return t("held");
	if (d.state === "off") return "";
	if (d.mine)
		return {
			accepted: t("you accepted"),
			maybe: t("you: maybe"),
			declined: t("you declined"),
			none: t("not answered"),
		}[d.mine];
	const of = (answer: Schemas["Answer"]) => d.answers.find((a) => a.answer === answer)?.count ?? 0;
	const all = d.answers.reduce((n, a) => n + a.count, 0);
	if (all === 0) return "";
	if (of("declined") > 0) return t("%s declined", of("declined"));
	if (of("none") === all) return t("no answers yet");
	return of("accepted") === all ? t("all accepted") : t("%s of %s accepted", of("accepted"), all);
}

/** All dates of a series; one is looked at. */
export function SeriesDates({
	m,
	series,
	on,
	onChoose,
}: {
	m: Meeting;
	series: Schemas["Series"];
	on: string;
	onChoose: (on: string) => void;
}) {
	const { zone } = useSignedIn();
	return (
		<section aria-label={t("Dates")} className="mt-4">
			<h2 className="text-[17px]">
				{t("Dates")} <span className="font-normal font-sans text-[14px] text-quiet">{counts(series)}</span>
			</h2>
			<ol className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(112px,1fr))]">
				{series.dates.map((d) => {
					const cell = seriesCell(d, zone, m);
					return (
						<li
							key={d.on}
							className={`border border-rule ${cell.look} ${d.on === on ? "shadow-[inset_0_-3px_0_var(--color-fig)]" : ""}`}
						>
							<DateButton cell={cell} chosen={d.on === on} onChoose={onChoose} />
						</li>
					);
				})}
			</ol>
			{series.more && (
				<p className="mt-1 text-quiet text-small">{series.open ? t("and so on, without an end") : t("and more")}</p>
			)}
		</section>
	);
}

const counts = (s: Schemas["Series"]) =>
	s.open ? t("%s, without an end", s.words) : t("%s · %s dates, %s to come", s.words, s.count, s.left);
