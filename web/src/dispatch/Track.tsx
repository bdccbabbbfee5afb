import { useSignedIn } from "../api/me";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { cellsOf, type Look, stageWords } from "./cells";
import type { SentLine } from "./deeds";

/** The columns that a message goes through; each row has the same. */
export const columns = "grid-cols-[minmax(0,1fr)_minmax(0,1fr)_minmax(0,1fr)_minmax(0,1fr)]";

const looks: Record<Look, string> = {
	done: "h-1 bg-moss",
	open: "h-1 mark-unanswered",
	broken: "h-1 mark-broken",
	ahead: "h-0 border-rule border-t-2 border-dotted",
};

/** How far one message came: a line that is drawn as far as it got. */
export function Track({ line }: { line: SentLine }) {
	const { zone } = useSignedIn();
	const now = useNow();
	const cells = cellsOf(line, zone, now);
	return (
		<ol aria-label={t("How far the message to %s came", line.name)} className={`grid ${columns}`}>
			{cells.map((c) => (
				<li key={c.stage} className="min-w-0 pt-1">
					<span aria-hidden className="flex h-1 items-center">
						<span className={`block w-full ${looks[c.look]}`} />
					</span>
					<span className="sr-only">{t(stageWords[c.stage])}: </span>
					<span
						className={`mt-0.5 block truncate pr-2 text-small ${c.look === "broken" ? "text-brick" : c.look === "open" ? "text-honey" : "text-quiet"}`}
					>
						{c.words || <span className="sr-only">{c.look === "done" ? t("yes") : t("not yet")}</span>}
					</span>
				</li>
			))}
		</ol>
	);
}
