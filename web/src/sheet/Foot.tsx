import { memo, useEffect } from "react";
import { useNavigate } from "react-router";
import { t } from "../tongue/tongue";
import { Button, Kbd, Note } from "../ui/kit";
import type { Part } from "./part";
import { meantWords, reach, standings } from "./standing";
import type { Sending } from "./useSending";
import { goTo, partWords } from "./useSheetKeys";

/** What is still unsettled, and exactly whom Send reaches. */
export const Foot = memo(function Foot(part: Part & { sending: Sending; onLook: () => void; onLater: () => void }) {
	const { sheet, store, sending, onLook, onLater } = part;
	const navigate = useNavigate();
	const go = sending.go;
	useEffect(() => {
		const hear = (e: KeyboardEvent) => {
			if (e.key !== "Enter" || !(e.ctrlKey || e.metaKey)) return;
			// Before a list that is open takes the key for a choice.
			e.preventDefault();
			e.stopImmediatePropagation();
			(document.activeElement as HTMLElement | null)?.blur();
			setTimeout(() => void go(), 0);
		};
		window.addEventListener("keydown", hear, true);
		return () => window.removeEventListener("keydown", hear, true);
	}, [go]);
	const all = standings(part);
	return (
		<footer className="sticky bottom-0 z-10 [@media(max-height:520px)]:static border-rule border-t bg-sheet px-5 text-body max-sm:px-2.5">
			{sending.problem && (
				<div className="pt-2">
					<Note tone="brick">{sending.problem.detail}</Note>
				</div>
			)}
			<div className="flex min-h-14 flex-wrap items-center gap-x-4 gap-y-2 py-2 max-sm:flex-nowrap max-sm:gap-x-2 lg:flex-nowrap">
				<ul aria-label={t("What is settled")} className="flex flex-wrap gap-x-1 max-sm:hidden">
					{all.map((s) => (
						<li key={s.name}>
							<button
								type="button"
								onClick={() => goTo(s.name)}
								className={`rounded-[3px] px-1 text-left font-[650] hover:underline ${s.broken ? "text-brick" : s.open ? "text-honey" : "text-moss"}`}
							>
								<span aria-hidden>{s.open ? "!" : "✓"}</span> {t(partWords[s.name])}
								{s.open && `: ${s.open}`}
							</button>
						</li>
					))}
				</ul>
				<span className="ml-auto min-w-0 text-right max-sm:ml-0 max-sm:line-clamp-2 max-sm:flex-1 max-sm:text-left max-sm:text-small">
					<Meant part={part} />
					<span className="text-quiet">{reach(part)}</span>
				</span>
				<Button className="max-sm:hidden" onClick={() => store.save().then((ok) => ok && navigate("/weeks"))}>
					{t("Keep as draft")}
				</Button>
				<Button onClick={onLook}>
					{t("See")} <span className="max-sm:sr-only">{t("the invitation")}</span>
				</Button>
				<Button className="max-sm:hidden" onClick={onLater}>
					{t("Later…")}
				</Button>
				<Button look="go" busy={sending.busy} onClick={() => void go()}>
					{sendWord(sheet)}
					<span className="max-sm:hidden">
						<Kbd onDark>Ctrl ↵</Kbd>
					</span>
				</Button>
			</div>
		</footer>
	);
});

export const sendWord = (sheet: Part["sheet"]) => (sheet.meetingId ? t("Send changes") : t("Send"));

/** Which dates of a series a change is for, in words that cannot be missed. */
function Meant({ part }: { part: Part }) {
	const { scope } = part.draft;
	if (!scope) return null;
	return (
		<b className="mr-2 rounded-[3px] bg-fig px-1.5 py-0.5 font-[650] whitespace-nowrap text-white">
			{meantWords(scope, part.dates?.dates)}
		</b>
	);
}
