import { useNavigate } from "react-router";
import type { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { shortDay, wholeDays } from "../time/format";
import { t } from "../tongue/tongue";
import { spoken } from "./spoken";

type Props = {
	meeting: Schemas["WeekMeeting"];
	day: Temporal.PlainDate;
	top: number;
	chosen: boolean;
	onChoose: (byKey: boolean) => void;
};

/** A meeting over whole days: a line along the top of each of its days, its words below it. */
export function WholeDay({ meeting: m, day, top, chosen, onChoose }: Props) {
	const navigate = useNavigate();
	const { first, last, days } = wholeDays(m);
	const which = days > 1 ? ` · ${t("day %s of %s", first.until(day).days + 1, days)}` : "";
	return (
		<button
			type="button"
			aria-pressed={chosen}
			title={days > 1 ? `${shortDay(first)} – ${shortDay(last)}` : t("all day")}
			data-mark={`${m.id} ${m.on}`}
			onClick={(e) => onChoose(e.detail === 0)}
			onDoubleClick={() => navigate(`/meeting/${m.id}${m.series ? `?date=${m.on}` : ""}`)}
			className={`absolute inset-x-0 block text-left outline-offset-1 ${chosen ? "bg-fig-wash" : ""}`}
			style={{ top, height: 24 }}
		>
			<i className={`block h-[5px] mark-${m.standing}`} />
			<span className="block truncate px-1.5 text-[13px] leading-[18px]">
				<b className={`font-[650] ${m.standing === "declined" ? "line-through" : ""}`}>{m.title}</b>
				<span className="text-quiet">
					{which}
					{m.room && ` · ${m.room}`}
				</span>
				<span className="sr-only">
					, {t("all day")}, {spoken(m, "UTC")}
				</span>
			</span>
		</button>
	);
}
