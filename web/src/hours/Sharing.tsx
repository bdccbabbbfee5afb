import { useState } from "react";
import { problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { type Term, t, term } from "../tongue/tongue";
import { Button, Note } from "../ui/kit";
import { Colleague } from "./Colleague";
import { useSetSharing } from "./deeds";

type Level = Schemas["SharingLevel"];

const levels: [Level, Term][] = [
	["nothing", term("nothing")],
	["busy", term("busy and clear")],
	["titles", term("titles too")],
];

const Choice = ({ label, level, set }: { label: string; level: Level; set: (level: Level) => void }) => (
	<select
		aria-label={label}
		className="rounded-[4px] border border-rule bg-sheet px-1.5 py-[3px]"
		value={level}
		onChange={(e) => set(e.target.value as Level)}
	>
		{levels.map(([value, words]) => (
			<option key={value} value={value}>
				{t(words)}
			</option>
		))}
	</select>
);

/** What colleagues see of one's time: everybody, and some of them otherwise. */
export function Sharing({ page }: { page: Schemas["HoursPage"] }) {
	const me = useSignedIn();
	const set = useSetSharing();
	const [adding, setAdding] = useState(false);
	const change = (everybody: Level, list: { personId: string; level: Level }[]) =>
		set.mutate({ everybody, with: list });
	const list = page.with.map(({ personId, level }) => ({ personId, level }));
	return (
		<section className="mt-5">
			<h2 className="text-[19px]">{t("Who sees what")}</h2>
			<p className="text-quiet text-small">
				{t("of your time; private meetings and other calendars never show a title")}
			</p>
			{set.error && <Note tone="brick">{problemOf(set.error).detail}</Note>}
			<ul className="mt-1">
				<li className="flex items-center justify-between gap-2 border-rule border-b py-2">
					{t("Everybody in the house")}
					<Choice
						label={t("What everybody in the house sees")}
						level={page.everybody}
						set={(level) => change(level, list)}
					/>
				</li>
				{page.with.map((w) => (
					<li key={w.personId} className="flex items-center justify-between gap-2 border-rule border-b py-2">
						<span className="min-w-0 truncate">{w.name}</span>
						<span className="flex items-center gap-1">
							<Choice
								label={t("What %s sees", w.name)}
								level={w.level}
								set={(level) =>
									change(
										page.everybody,
										list.map((x) => (x.personId === w.personId ? { ...x, level } : x)),
									)
								}
							/>
							<Button
								look="bare"
								aria-label={t("%s sees what everybody does", w.name)}
								onClick={() =>
									change(
										page.everybody,
										list.filter((x) => x.personId !== w.personId),
									)
								}
							>
								✕
							</Button>
						</span>
					</li>
				))}
			</ul>
			{adding ? (
				<div className="mt-1.5 flex items-center gap-2">
					<Colleague
						label={t("A colleague who sees something else")}
						without={[me.id, ...list.map((x) => x.personId)]}
						set={(p) => {
							if (!p) return;
							change(page.everybody, [...list, { personId: p.id, level: "titles" }]);
							setAdding(false);
						}}
					/>
					<Button look="bare" onClick={() => setAdding(false)}>
						{t("never mind")}
					</Button>
				</div>
			) : (
				<Button look="bare" className="-ml-1" onClick={() => setAdding(true)}>
					{t("+ somebody")}
				</Button>
			)}
		</section>
	);
}
