import { Link } from "react-router";
import { useGiveAnswer } from "../api/answer";
import { problemOf } from "../api/client";
import { useSignedIn } from "../api/me";
import { Answers } from "../meeting/AnswerBar";
import { clashWords } from "../meeting/clashWords";
import { moment } from "../time/format";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { lookOf, Note } from "../ui/kit";
import type { NewsItem } from "./deeds";

const edges: Record<NewsItem["kind"], string> = {
	asked: "border-l-honey",
	changed: "border-l-fig",
	calledOff: "border-l-brick",
	answered: "border-l-moss",
	happened: "border-l-brick",
};

/** One thing that is new: what it is about, what it was and is, and what can be done. */
export function NewsRow({ item: n, fresh }: { item: NewsItem; fresh: boolean }) {
	const { zone } = useSignedIn();
	const now = useNow();
	const page = n.sheetId ? `/sheet/${n.sheetId}` : `/meeting/${n.meetingId}${n.on ? `?date=${n.on}` : ""}`;
	return (
		<li
			className={`flex min-w-0 flex-wrap items-start gap-x-4 gap-y-1 rounded-[4px] border border-rule border-l-[5px] bg-sheet px-3.5 py-2 ${n.roomId ? edges.asked : edges[n.kind]}`}
		>
			<div className="min-w-0 flex-1 basis-[300px]">
				<div className="flex items-baseline gap-2">
					<b className={`min-w-0 truncate ${fresh ? "font-[650]" : "font-normal"}`} title={n.title}>
						{n.title}
					</b>
					{fresh && <span className="rounded-[3px] bg-fig px-1.5 text-[11.5px] text-white leading-4">{t("new")}</span>}
					<time dateTime={n.at} className="ml-auto whitespace-nowrap text-quiet text-small">
						{moment(n.at, zone, now)}
					</time>
				</div>
				<p className="text-small">
					{n.words}
					{n.word && <span className="break-words"> “{n.word}”</span>}
				</p>
				{n.lines.length > 0 && (
					<dl className="grid grid-cols-[64px_minmax(0,1fr)] text-small">
						{n.lines.map((l) => (
							<div key={l.what} className="contents">
								<dt className="text-quiet">{l.what}</dt>
								<dd className="break-words">
									{l.was && (
										<>
											<s className="text-quiet">{l.was}</s> <span className="sr-only">{t("is now")}</span>
											<span aria-hidden>→</span>{" "}
										</>
									)}
									{l.is}
								</dd>
							</div>
						))}
					</dl>
				)}
				{n.clashes.length > 0 && <p className="mt-0.5 text-honey text-small">{clashWords(n.clashes)}</p>}
			</div>
			{n.roomId && (
				<Link
					to={`/room/${n.roomId}`}
					aria-label={n.decides ? t("Decide about %s", n.title) : t("The room of %s", n.title)}
					className={`${lookOf(n.decides ? "go" : "plain")} shrink-0 ${n.decides ? "" : "text-ink"}`}
				>
					{n.decides ? t("Decide") : t("The room")}
				</Link>
			)}
			{(n.canOpen || n.sheetId) && !n.roomId && (
				<Link to={page} aria-label={t("Open %s", n.title)} className={`${lookOf("plain")} shrink-0 text-ink`}>
					{t("Open")}
				</Link>
			)}
			{n.asks && <Reply item={n} sequence={n.asks.sequence} />}
		</li>
	);
}

function Reply({ item, sequence }: { item: NewsItem; sequence: number }) {
	const answer = useGiveAnswer(item.meetingId ?? "", sequence);
	return (
		<div className="basis-full pt-1 pb-1">
			{answer.error && <Note tone="brick">{problemOf(answer.error).detail}</Note>}
			<Answers
				id={item.id}
				current="none"
				comment=""
				busy={answer.isPending}
				onGive={(given, comment) => answer.mutate({ answer: given, comment })}
			/>
		</div>
	);
}
