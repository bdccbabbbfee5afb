import { t } from "../tongue/tongue";
import { Button } from "../ui/kit";
import { useWritten } from "./draft/useDraft";
import { faultAt, type Part } from "./part";
import { personOf } from "./person";

/** Each of those typed of whom it has to be said who is meant. */
export function WhoIsMeant({ part }: { part: Part }) {
	const { sheet, store, change, faults, draft } = part;
	const typed = useWritten(store, (w) => w.draft.typed ?? []);
	const asked = sheet.unclear.filter((u) => typed.some((t) => t.field === "unclear" && t.text === u.text));
	if (asked.length === 0) return null;
	const without = (text: string) => {
		const at = typed.findIndex((t) => t.field === "unclear" && t.text === text);
		return typed.filter((_, i) => i !== at);
	};
	return (
		<ul aria-label={t("Who is meant")} className="mb-1 flex flex-col gap-1">
			{asked.map((u, i) => (
				<li
					// biome-ignore lint/suspicious/noArrayIndexKey: a name may have been typed twice
					key={`${u.text} ${i}`}
					className="rounded-r-[4px] border-honey border-l-[5px] bg-honey-wash px-2.5 py-1 text-small"
				>
					<p>{faultAt(faults, `unclear.${i}`)?.detail ?? t("Who is “%s”?", u.text)}</p>
					<span className="flex flex-wrap gap-x-2">
						{u.choices.map((c) => (
							<Button
								key={c.email}
								look="bare"
								className="!whitespace-normal text-left"
								title={c.email}
								onClick={() =>
									change({
										typed: without(u.text),
										people: draft.people.some((p) => p.email.toLowerCase() === c.email.toLowerCase())
											? draft.people
											: [...draft.people, personOf(c)],
									})
								}
							>
								{c.name}, {c.about}
							</Button>
						))}
						<Button look="bare" onClick={() => change({ typed: without(u.text) })}>
							{t("Take it off")}
						</Button>
					</span>
				</li>
			))}
		</ul>
	);
}
