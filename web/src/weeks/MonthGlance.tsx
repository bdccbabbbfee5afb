import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useState } from "react";
import type { Temporal } from "temporal-polyfill";
import { useMonth } from "../find/deeds";
import { longDayWithYear, monday, month } from "../time/format";
import { t } from "../tongue/tongue";
import { Button, lookOf } from "../ui/kit";

type Props = {
	shown: Temporal.PlainDate;
	today: Temporal.PlainDate;
	onWeek: (monday: Temporal.PlainDate) => void;
};

/** A month to jump by: how much is on each day, a row a week. */
export function MonthGlance({ shown, today, onWeek }: Props) {
	return (
		<Popover className="relative">
			<PopoverButton className={`${lookOf("plain")} text-ink`}>
				{t("Month")} <span aria-hidden>▾</span>
			</PopoverButton>
			<PopoverPanel
				focus
				role="dialog"
				aria-label={t("A month at a glance")}
				className="absolute left-0 z-20 mt-1 rounded-[4px] border border-ink bg-sheet p-3 shadow-[4px_4px_0_rgb(29_42_44/0.12)] max-sm:fixed max-sm:inset-x-2"
			>
				{({ close }) => (
					<Month
						shown={shown}
						today={today}
						onWeek={(to) => {
							close();
							onWeek(to);
						}}
					/>
				)}
			</PopoverPanel>
		</Popover>
	);
}

const weeks = 6;

function Month({ shown, today, onWeek }: Props) {
	// The month that most of the week shown lies in.
	const [at, setAt] = useState(shown.add({ days: 3 }).with({ day: 1 }));
	const first = monday(at);
	const counts = new Map(useMonth(first.toString(), weeks * 7).data?.days.map((d) => [d.day, d.meetings]));
	const rows = Array.from({ length: weeks }, (_, i) => first.add({ days: 7 * i })).filter(
		(w) => w.month === at.month || w.add({ days: 6 }).month === at.month,
	);
	return (
		<div className="w-[318px] max-sm:w-full">
			<div className="mb-1.5 flex items-center gap-2">
				<h2 className="mr-auto text-[16px]" aria-live="polite">
					{month(at)} {at.year}
				</h2>
				<Button aria-label={t("Month before")} onClick={() => setAt(at.subtract({ months: 1 }))}>
					←
				</Button>
				<Button aria-label={t("Month after")} onClick={() => setAt(at.add({ months: 1 }))}>
					→
				</Button>
			</div>
			<ul>
				{rows.map((w) => (
					<li key={w.toString()}>
						<button
							type="button"
							aria-current={w.equals(shown) ? "true" : undefined}
							onClick={() => onWeek(w)}
							className={`grid w-full grid-cols-[46px_repeat(7,1fr)] items-end gap-1 rounded-[3px] px-1 py-1 text-left hover:bg-ink/5 ${w.equals(shown) ? "shadow-[inset_4px_0_0_var(--color-fig)]" : ""}`}
						>
							<span className="pl-1.5 text-[11.5px] text-quiet">
								<span className="sr-only">{t("Week of %s", longDayWithYear(w))}: </span>
								{t("wk %s", w.weekOfYear)}
							</span>
							{Array.from({ length: 7 }, (_, i) => w.add({ days: i })).map((d) => (
								<Day
									key={d.toString()}
									day={d}
									meetings={counts.get(d.toString()) ?? 0}
									today={today}
									month={at.month}
								/>
							))}
						</button>
					</li>
				))}
			</ul>
		</div>
	);
}

/** A day with a bar as long as there is much on it, up to a full one. */
function Day(props: { day: Temporal.PlainDate; meetings: number; today: Temporal.PlainDate; month: number }) {
	const { day, meetings, today } = props;
	return (
		<span
			className={`flex flex-col gap-0.5 text-small ${day.month === props.month ? "" : "text-quiet"} ${day.equals(today) ? "font-[650] text-fig" : ""}`}
		>
			{day.day}
			<i
				aria-hidden
				className="block h-1 rounded-[1px] bg-moss"
				style={{ width: `${Math.min(100, meetings * 20)}%` }}
			/>
		</span>
	);
}
