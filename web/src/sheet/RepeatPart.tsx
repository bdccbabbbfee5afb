import { Temporal } from "temporal-polyfill";
import type { Schemas } from "../api/client";
import { writeRule } from "../series/rule";
import { t } from "../tongue/tongue";
import { Button } from "../ui/kit";
import type { Part } from "./part";
import { endWords } from "./repeatWords";
import { dayPart } from "./when";

type Props = Part & { dates: Schemas["SheetDates"] | undefined; open: boolean; setOpen: (open: boolean) => void };

/** How often the meeting is, in a line below its time; the sentence to fill in opens at the right. */
export function RepeatPart({ draft, change, dates, faults, open, setOpen }: Props) {
	const repeat = draft.repeat;
	const fault = faults.find((f) => f.field.startsWith("repeat."));
	if (!repeat)
		return (
			<Button
				look="bare"
				className="-ml-1 text-small"
				onClick={() => {
					const begun = begin(dayPart(draft.start));
					if (begun) change({ repeat: begun, dates: [] });
					setOpen(true);
				}}
			>
				{t("Let it repeat…")}
			</Button>
		);
	return (
		<div className="mt-1.5 flex flex-wrap items-center gap-1.5">
			<Button aria-expanded={open} className={slim} onClick={() => setOpen(!open)}>
				{dates?.words ? capital(dates.ruleSaid) : t("Repeats")} <span aria-hidden>▾</span>
			</Button>
			<Button aria-expanded={open} className={slim} onClick={() => setOpen(!open)}>
				{endWords(repeat, dates)}
			</Button>
			{fault && !open && <span className="text-brick text-small">{fault.detail}</span>}
		</div>
	);
}

const slim = "!px-2 !py-[3px] text-body";

/** Weekly on the day of the start, for twelve weeks: an end is better known. */
function begin(start: string): Schemas["DraftRepeat"] | null {
	try {
		const day = Temporal.PlainDate.from(start);
		const code = (["MO", "TU", "WE", "TH", "FR", "SA", "SU"] as const)[day.dayOfWeek - 1] ?? "MO";
		return {
			rule: writeRule({ unit: "WEEKLY", every: 1, days: [code], on: "" }),
			ends: "on",
			until: day.add({ weeks: 11 }).toString(),
			count: 12,
			weekends: false,
			holidays: false,
			days: [],
			added: [],
		};
	} catch {
		return null;
	}
}

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);
