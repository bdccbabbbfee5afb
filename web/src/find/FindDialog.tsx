import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Temporal } from "temporal-polyfill";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { clock, dayWithYear, inZone, monday, spell, zoneOf } from "../time/format";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { fieldLook, Note, Plate, Tag } from "../ui/kit";
import { Question } from "../ui/Question";
import { useFound } from "./deeds";

type Goal = { day: string } | Schemas["FoundMeeting"];

/** Finds one's meetings by words, people, rooms and months, and jumps to a date. */
export function FindDialog({ onClose }: { onClose: () => void }) {
	const [typed, setTyped] = useState("");
	const navigate = useNavigate();
	const found = useFound(typed);
	const asked = typed.trim().length > 1;
	const day = asked ? found.data?.day : undefined;
	const items = asked ? (found.data?.items ?? []) : [];
	const go = (goal: Goal | null) => {
		if (!goal) return;
		onClose();
		navigate("id" in goal ? `/meeting/${goal.id}${goal.series ? `?date=${goal.on}` : ""}` : weekOf(goal.day));
	};
	return (
		<Question title={t("Find a meeting, or jump to a date")} onClose={onClose}>
			<Combobox<Goal | null> immediate value={null} onChange={go}>
				<ComboboxInput
					aria-label={t("Find")}
					autoFocus
					autoComplete="off"
					placeholder={t("word, person, room · mar 2027 · week 12 · 3 dec")}
					className={`${fieldLook()} mt-2.5 placeholder:text-quiet`}
					onChange={(e) => setTyped(e.target.value)}
					onKeyDown={(e) => e.key === "Escape" && onClose()}
				/>
				{asked && (
					<ComboboxOptions static modal={false} className="mt-2 flex max-h-[52vh] flex-col overflow-y-auto">
						{day && <Jump day={day} />}
						{items.map((m) => (
							<Hit key={`${m.id} ${m.on}`} m={m} />
						))}
					</ComboboxOptions>
				)}
			</Combobox>
			<div role="status" className="mt-2 text-quiet text-small">
				{!asked && t("Meetings past, to come and called off are found, by the beginnings of words.")}
				{found.error && <Note tone="brick">{problemOf(found.error).detail}</Note>}
				{asked &&
					!day &&
					items.length === 0 &&
					!found.error &&
					(found.settled ? t("Nothing of that name.") : t("Looking…"))}
				{found.data?.more && asked && t("There are more; add a word.")}
			</div>
		</Question>
	);
}

const weekOf = (day: string) => `/weeks?from=${monday(Temporal.PlainDate.from(day))}`;

const option =
	"flex cursor-pointer flex-wrap items-baseline gap-x-2 border-rule border-b px-2 py-1.5 text-body last:border-b-0 data-focus:bg-fig-wash data-focus:shadow-[inset_4px_0_0_var(--color-fig)]";

function Jump({ day }: { day: string }) {
	const d = Temporal.PlainDate.from(day);
	return (
		<ComboboxOption value={{ day } satisfies Goal} className={option}>
			<b className="font-[650]">{t("Go to the week of %s", dayWithYear(d))}</b>
			<span className="ml-auto text-quiet text-small">{t("week %s", d.weekOfYear)}</span>
		</ComboboxOption>
	);
}

function Hit({ m }: { m: Schemas["FoundMeeting"] }) {
	const { zone } = useSignedIn();
	const now = useNow();
	const at = inZone(m.start, zoneOf(m, zone));
	const past = Temporal.Instant.compare(Temporal.Instant.from(m.end), now) <= 0;
	return (
		<ComboboxOption value={m satisfies Goal} className={option}>
			<span className={`min-w-0 flex-1 truncate ${m.calledOff ? "line-through" : ""}`}>{m.title}</span>
			{m.calledOff && <Tag tone="brick">{t("called off")}</Tag>}
			{m.room && <Plate small>{m.room}</Plate>}
			<span className="basis-full text-quiet text-small">
				{dayWithYear(at.toPlainDate())}
				{m.allDay ? spell(m, zone) : `, ${clock(at)}`}
				{past && !m.calledOff && ` · ${t("held")}`}
				{!m.mine && ` · ${m.organiser}`}
			</span>
		</ComboboxOption>
	);
}
