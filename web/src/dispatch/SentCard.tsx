import { ChevronDown } from "lucide-react";
import { Link } from "react-router";
import { t } from "../tongue/tongue";
import { Button, Tag } from "../ui/kit";
import type { SentLine, SentMeeting } from "./deeds";
import { Track } from "./Track";

type Props = { sent: SentMeeting; chosen: string; onChoose: (id: string) => void };

/** What went out about one meeting, a row for each person. Where everybody was reached it is folded. */
export function SentCard({ sent, chosen, onChoose }: Props) {
	const settled = sent.reached === sent.all && !sent.lines.some((l) => l.id === chosen);
	const head = (
		<>
			<span className="min-w-0">
				<b className={`break-words font-[650] text-[15px] ${sent.calledOff ? "line-through" : ""}`}>
					{sent.title || t("Private")}
				</b>{" "}
				<span className="text-quiet text-small">
					{sent.words}
					{sent.calledOff && ` · ${t("called off")}`}
					{!sent.mine && ` · ${sent.organiser}`}
				</span>
			</span>
			<span className="ml-auto whitespace-nowrap text-small">{reached(sent)}</span>
			<ChevronDown aria-hidden size={15} className="shrink-0 self-center text-quiet [details[open]_&]:rotate-180" />
		</>
	);
	return (
		<section aria-label={sent.title || t("Private")} className="rounded-[4px] border border-rule bg-sheet">
			<details open={!settled}>
				<summary className="flex cursor-pointer items-baseline gap-3 bg-[#faf7f0] px-3 py-2 [&::-webkit-details-marker]:hidden">
					{head}
				</summary>
				<ul>
					{sent.lines.map((l) => (
						<Row key={l.id} line={l} mine={sent.mine} chosen={l.id === chosen} onChoose={() => onChoose(l.id)} />
					))}
				</ul>
				<p className="border-[#eae4d8] border-t px-3 py-1.5 text-quiet text-small">
					{sent.all > sent.lines.length && `${t("and %s more who need nothing", sent.all - sent.lines.length)} · `}
					{sent.mine && <Link to={`/meeting/${sent.id}`}>{t("Open the meeting")}</Link>}
				</p>
			</details>
		</section>
	);
}

const reached = (s: SentMeeting) =>
	s.reached === s.all ? (
		<span className="text-quiet">{t("all reached")}</span>
	) : (
		t("%s of %s reached", s.reached, s.all)
	);

type RowProps = { line: SentLine; mine: boolean; chosen: boolean; onChoose: () => void };

function Row({ line, mine, chosen, onChoose }: RowProps) {
	const { troubled: open, lost } = line;
	return (
		<li
			className={`grid items-center gap-x-3 border-[#eae4d8] border-t px-3 py-1.5 max-md:grid-cols-1 md:grid-cols-[minmax(0,210px)_minmax(0,1fr)_112px] ${chosen ? "bg-fig-wash" : ""}`}
		>
			<div className="min-w-0">
				<span className="break-words">{line.name}</span> {line.outside && <Tag>{t("outside")}</Tag>}
				{(line.outside ? line.address : t("in Jembro")) !== line.name && (
					<div className="truncate text-quiet text-small" title={line.address}>
						{line.outside ? line.address : t("in Jembro")}
					</div>
				)}
			</div>
			<Track line={line} />
			<div className="text-right">
				{lost && <b className="block font-[650] text-brick text-small">{t("not reached")}</b>}
				{mine && (
					<Button look="bare" className="text-small" aria-expanded={chosen} onClick={onChoose}>
						{open ? t("Other ways") : t("Look")}
						<span className="sr-only"> {t("for %s", line.name)}</span>
					</Button>
				)}
			</div>
		</li>
	);
}
