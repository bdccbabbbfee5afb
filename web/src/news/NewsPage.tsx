import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { useSignedIn } from "../api/me";
import { useTitle } from "../shell/title";
import { longDay } from "../time/format";
import { useNow } from "../time/now";
import { t } from "../tongue/tongue";
import { Button, Empty, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { aPage, type NewsItem, useNews, useReadNews } from "./deeds";
import { NewsRow } from "./NewsRow";

/** How long something has to be in view to count as read. */
const lookedAt = 2000;

/** What is new for somebody: what waits for their answer first, then what they have to know. */
export function NewsPage() {
	useTitle(t("New"));
	const [params, setParams] = useSearchParams();
	const skip = Math.max(0, Number.parseInt(params.get("skip") ?? "", 10) || 0);
	const news = useNews(skip);
	const fresh = useFresh(news.data?.items);
	if (news.error && !news.data)
		return (
			<main className="p-5">
				<TryAgain error={news.error} again={() => news.refetch()} />
			</main>
		);
	if (!news.data) return <Skeleton lines={6} />;
	const { items, more, unread } = news.data;
	const waiting = skip === 0 ? unique(items.filter((n) => n.asks || n.decides)) : [];
	const rest = items.filter((n) => !waiting.includes(n));
	return (
		<main className="grid w-full flex-1 content-start gap-6 px-5 py-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,6fr)]">
			<section aria-label={t("Waits for your answer")} className="min-w-0">
				<Today />
				<h2 className="mb-2 text-[17px]">
					{t("Waits for your answer")}{" "}
					{waiting.length > 0 && <span className="font-normal font-sans text-[14px] text-quiet">{waiting.length}</span>}
				</h2>
				{waiting.length === 0 ? (
					<Empty title={t("Nobody waits for you.")}>
						{t("What you are asked to come to, or for a room that you keep, is answered here.")}
					</Empty>
				) : (
					<ul className="flex flex-col gap-2.5">
						{waiting.map((n) => (
							<NewsRow key={n.id} item={n} fresh={fresh.has(n.id)} />
						))}
					</ul>
				)}
			</section>
			<section aria-label={t("What happened")} className="min-w-0">
				<div className="mb-2 flex flex-wrap items-baseline gap-x-3">
					<h2 className="text-[17px]">{t("What happened")}</h2>
					<span className="text-quiet text-small">{unread > 0 ? t("%s not read", unread) : t("all read")}</span>
					<AllRead unread={unread} />
				</div>
				{rest.length === 0 ? (
					<Empty title={t("Nothing else is new.")}>
						{t("Changes, what is called off, and answers to your meetings are listed here.")}
					</Empty>
				) : (
					<ul className="flex flex-col gap-1.5">
						{rest.map((n) => (
							<NewsRow key={n.id} item={n} fresh={fresh.has(n.id)} />
						))}
					</ul>
				)}
				<div className="mt-3 flex gap-2">
					{skip > 0 && (
						<Button onClick={() => setParams(skip > aPage ? { skip: String(skip - aPage) } : {})}>{t("Newer")}</Button>
					)}
					{more && <Button onClick={() => setParams({ skip: String(skip + aPage) })}>{t("Older")}</Button>}
				</div>
			</section>
		</main>
	);
}

function Today() {
	const { zone } = useSignedIn();
	const day = useNow().toZonedDateTimeISO(zone).toPlainDate();
	return <h1 className="mb-2.5 text-[27px] leading-tight">{longDay(day)}</h1>;
}

/** A meeting asked about and changed since then waits once: by what is newest. */
function unique(items: NewsItem[]) {
	const seen = new Set<string>();
	const about = (n: NewsItem) => `${n.meetingId ?? n.id} ${n.roomId ?? ""}`;
	return items.filter((n) => !seen.has(about(n)) && seen.add(about(n)));
}

function AllRead({ unread }: { unread: number }) {
	const read = useReadNews();
	const { now } = { now: useNow() };
	if (unread === 0) return null;
	return (
		<Button
			look="bare"
			className="ml-auto text-small"
			busy={read.isPending}
			onClick={() => read.mutate({ upTo: now.toString() })}
		>
			{t("Mark all as read")}
		</Button>
	);
}

/** What was not read when the page was opened; it stays marked here, and counts as read after a look. */
function useFresh(items: NewsItem[] | undefined) {
	const [fresh, setFresh] = useState<Set<string>>(new Set());
	const { mutate } = useReadNews();
	const sent = useRef(new Set<string>());
	useEffect(() => {
		const unread = (items ?? []).filter((n) => n.unread && !sent.current.has(n.id)).map((n) => n.id);
		if (unread.length === 0) return;
		setFresh((before) => new Set([...before, ...unread]));
		const timer = setTimeout(() => {
			if (document.visibilityState !== "visible") return;
			for (const id of unread) sent.current.add(id);
			mutate({ ids: unread });
		}, lookedAt);
		return () => clearTimeout(timer);
	}, [items, mutate]);
	return fresh;
}
