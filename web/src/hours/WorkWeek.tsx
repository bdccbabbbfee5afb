import { useEffect, useState } from "react";
import { faultIn, problemOf, type Schemas } from "../api/client";
import { ZoneChooser } from "../sheet/ZoneField";
import { length, shortWeekdayName, weekdayName } from "../time/format";
import { HourScale } from "../timeline/Hours";
import { t } from "../tongue/tongue";
import { FieldFault, fieldLook, Note } from "../ui/kit";
import { DayTrack, type Shown } from "./DayTrack";
import { type Stretch, stretchesOf, worked, written } from "./day";
import { useSetHours } from "./deeds";

export const columns =
	"grid grid-cols-[104px_minmax(0,1fr)_212px] max-sm:grid-cols-[58px_minmax(0,1fr)] items-center border-rule border-b last:border-b-0";

/** The hours of one's week: a row a day, drawn or typed. */
export function WorkWeek({ page, shown }: { page: Schemas["HoursPage"]; shown: Shown }) {
	const set = useSetHours();
	const week = page.week.map(stretchesOf);
	const problem = set.error && problemOf(set.error);
	const texts = week.map(written);
	const send = (at: number, text: string) =>
		set.mutate({ version: page.version, zone: page.zone, week: texts.map((t, i) => (i === at ? text : t)) });
	return (
		<section className="mt-3">
			<div className="flex flex-wrap items-end gap-x-2.5 gap-y-1">
				<h2 className="text-[17px]">{t("When I work")}</h2>
				<span className="text-quiet text-small">
					{t("outside these hours I can still be asked; it is said and counted")}
				</span>
				<div className="ml-auto">
					<ZoneChooser
						zone={page.zone}
						label={t("My time zone")}
						own={page.zone}
						likely={[]}
						set={(zone) => set.mutate({ version: page.version, zone, week: texts })}
					/>
				</div>
			</div>
			<div className="mt-2 border border-rule bg-sheet">
				<div className={`${columns} h-[26px]`}>
					<span />
					<HourScale scale={shown} />
				</div>
				{week.map((hours, i) => (
					<Row
						// biome-ignore lint/suspicious/noArrayIndexKey: a week has seven days
						key={i}
						day={i}
						hours={hours}
						shown={shown}
						fault={faultIn(problem, `week.${i}`)}
						set={(text) => send(i, text)}
					/>
				))}
			</div>
			{problem && !problem.errors && (
				<div className="mt-2">
					<Note tone="brick">{problem.detail}</Note>
				</div>
			)}
		</section>
	);
}

function Row(props: { day: number; hours: Stretch[]; shown: Shown; fault?: string; set: (text: string) => void }) {
	const { day, hours, shown, fault } = props;
	const said = written(hours);
	const [text, setText] = useState(said);
	useEffect(() => setText(said), [said]);
	const total = worked(hours);
	const keep = () => text.trim() !== said && props.set(text);
	return (
		<div className={columns} data-weekday={day + 1}>
			<div className="pl-2.5">
				<b className="font-[650]">{shortWeekdayName(day + 1)}</b>
				<span className="ml-2 text-quiet text-small max-sm:hidden">{total > 0 ? length(total) : t("off")}</span>
			</div>
			<DayTrack label={weekdayName(day + 1)} hours={hours} shown={shown} set={(h) => props.set(written(h))} />
			<div className="px-2.5 py-1 max-sm:col-start-2">
				<input
					aria-label={t("Hours on %s", weekdayName(day + 1))}
					aria-invalid={!!fault}
					aria-describedby={`fault-week-${day}`}
					placeholder={t("off; 9 – 17 adds hours")}
					className={`${fieldLook(!!fault)} text-body placeholder:text-quiet`}
					value={text}
					onChange={(e) => setText(e.target.value)}
					onBlur={keep}
					onKeyDown={(e) => {
						if (e.key === "Enter") keep();
						if (e.key === "Escape") setText(said);
					}}
				/>
				<FieldFault id={`fault-week-${day}`} sentence={fault} />
			</div>
		</div>
	);
}
