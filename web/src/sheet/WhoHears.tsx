import { t } from "../tongue/tongue";
import { Tag } from "../ui/kit";
import type { Part } from "./part";

/** Who will hear what of a change, before it is sent. */
export function WhoHears({ part, splits }: { part: Part; splits: boolean }) {
	const { sheet } = part;
	if (sheet.faults.length > 0) return null;
	const people = new Map<string, { outside: boolean; words: string[] }>();
	for (const d of sheet.due) {
		const known = people.get(d.name) ?? { outside: d.outside, words: [] };
		known.words.push(d.words || t("the meeting"));
		people.set(d.name, known);
	}
	return (
		<div className="mt-3 border-rule border-t pt-2.5 text-body">
			<h3 className="text-[15px]">{t("Who hears what")}</h3>
			{people.size === 0 ? (
				<p className="text-quiet text-small">{t("Nobody has to hear of it yet.")}</p>
			) : (
				<dl className="mt-1 grid grid-cols-[max-content_minmax(0,1fr)] gap-x-6 gap-y-0.5">
					{[...people].map(([name, p]) => (
						<div key={name} className="contents">
							<dt className="text-quiet">
								{name} {p.outside && <Tag>{t("outside")}</Tag>}
							</dt>
							<dd>{p.words.join("; ")}</dd>
						</div>
					))}
					{sheet.card && (
						<>
							<dt className="text-quiet">{t("Join card")}</dt>
							<dd>{sheet.link.changed ? t("another one") : t("stays as it is")}</dd>
						</>
					)}
				</dl>
			)}
			{splits && (
				<p className="mt-1 text-quiet text-small">
					{t(
						"The dates before stay as they were sent. The later ones become a series of their own with the same people, room and link.",
					)}
				</p>
			)}
		</div>
	);
}
