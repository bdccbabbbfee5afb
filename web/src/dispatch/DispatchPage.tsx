import { useEffect, useId, useState } from "react";
import { useSearchParams } from "react-router";
import { useTitle } from "../shell/title";
import { t } from "../tongue/tongue";
import { Button, Empty, fieldLook, Skeleton } from "../ui/kit";
import { TryAgain } from "../ui/TryAgain";
import { stageWords } from "./cells";
import { aPage, useSent } from "./deeds";
import { SentCard } from "./SentCard";
import { columns } from "./Track";
import { Ways } from "./Ways";

/** What went out, and how far it came. */
export function DispatchPage() {
	useTitle(t("Dispatch"));
	const [params, setParams] = useSearchParams();
	const chosen = params.get("message") ?? "";
	const [troubled, house] = [params.has("open"), params.has("house")];
	const words = params.get("to") ?? "";
	const offset = Math.max(0, Number.parseInt(params.get("skip") ?? "", 10) || 0);
	const sent = useSent({ troubled, house, words, offset });
	// What is asked for may have changed since this was drawn: what was sent answers after another was opened.
	const asked = () => new URLSearchParams(location.search);
	const set = (change: Record<string, string | null>) => {
		const next = asked();
		for (const [name, value] of Object.entries(change)) {
			if (value === null) next.delete(name);
			else next.set(name, value);
		}
		setParams(next, { replace: true });
	};
	const again = { skip: null, message: null };
	const close = () => asked().get("message") === chosen && set({ message: null });
	const data = sent.data;
	return (
		<main className={`grid flex-1 ${chosen ? "lg:grid-cols-[minmax(0,1fr)_356px]" : "grid-cols-1"}`}>
			<section className="min-w-0 px-5 py-4">
				<div className="flex flex-wrap items-baseline gap-x-3 gap-y-1.5">
					<h1 className="text-[24px] leading-tight">{t("Dispatch")}</h1>
					<span className="text-quiet">{t("what went out, and how far it came")}</span>
					<div className="ml-auto flex flex-wrap items-center gap-2">
						{data && data.lost > 0 && (
							<span className="rounded-[3px] bg-brick-wash px-2 py-0.5 text-brick text-small">
								{t("%s not reached", data.lost)}
							</span>
						)}
						{data && data.other > 0 && (
							<span className="rounded-[3px] bg-honey-wash px-2 py-0.5 text-honey text-small">
								{t("%s under way", data.other)}
							</span>
						)}
					</div>
				</div>
				<div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2">
					<To words={words} onWords={(to) => set({ to: to || null, ...again })} />
					<Check is={troubled} onIs={(is) => set({ open: is ? "1" : null, ...again })}>
						{t("only what is open")}
					</Check>
					{data?.keeper && (
						<Check is={house} onIs={(is) => set({ house: is ? "1" : null, ...again })}>
							{t("of the whole house")}
						</Check>
					)}
				</div>
				<Heads />
				{sent.error && !data ? (
					<TryAgain error={sent.error} again={() => sent.refetch()} />
				) : !data ? (
					<Skeleton lines={6} />
				) : data.items.length === 0 ? (
					<Nothing filtered={troubled || words !== ""} onAll={() => set({ open: null, to: null, ...again })} />
				) : (
					<div className={`flex flex-col gap-2.5 ${sent.isPlaceholderData ? "opacity-60" : ""}`}>
						{data.items.map((s) => (
							<SentCard
								key={s.id}
								sent={s}
								chosen={chosen}
								onChoose={(id) => set({ message: id === chosen ? null : id })}
							/>
						))}
					</div>
				)}
				<div className="mt-3 flex gap-2">
					{offset > 0 && (
						<Button onClick={() => set({ skip: offset > aPage ? String(offset - aPage) : null, message: null })}>
							{t("Newer")}
						</Button>
					)}
					{data?.more && (
						<Button onClick={() => set({ skip: String(offset + aPage), message: null })}>{t("Older")}</Button>
					)}
				</div>
			</section>
			{chosen && <Ways key={chosen} id={chosen} onClose={close} />}
		</main>
	);
}

const Heads = () => (
	<div
		aria-hidden
		className="mt-3 mb-1 hidden gap-x-3 px-3 text-quiet text-small md:grid md:grid-cols-[minmax(0,210px)_minmax(0,1fr)_112px]"
	>
		<span />
		<span className={`grid ${columns}`}>
			{Object.entries(stageWords).map(([stage, words]) => (
				<span key={stage}>{t(words)}</span>
			))}
		</span>
	</div>
);

/** Words in a name or an address; asked after a pause. */
function To({ words, onWords }: { words: string; onWords: (words: string) => void }) {
	const id = useId();
	const [typed, setTyped] = useState(words);
	useEffect(() => {
		if (typed.trim() === words) return;
		const timer = setTimeout(() => onWords(typed.trim()), 350);
		return () => clearTimeout(timer);
	});
	return (
		<span className="flex items-center gap-2">
			<label htmlFor={id} className="text-quiet text-small">
				{t("To")}
			</label>
			<input
				id={id}
				value={typed}
				maxLength={100}
				placeholder={t("name or address")}
				onChange={(e) => setTyped(e.target.value)}
				className={`${fieldLook()} w-56`}
			/>
		</span>
	);
}

type CheckProps = { is: boolean; onIs: (is: boolean) => void; children: string };

const Check = ({ is, onIs, children }: CheckProps) => (
	<label className="flex items-center gap-1.5 text-small">
		<input type="checkbox" checked={is} onChange={(e) => onIs(e.target.checked)} className="size-4 accent-moss" />
		{children}
	</label>
);

function Nothing({ filtered, onAll }: { filtered: boolean; onAll: () => void }) {
	if (filtered)
		return (
			<Empty title={t("Nothing of that kind.")} action={<Button onClick={onAll}>{t("Show all")}</Button>}>
				{t("Everybody whom you wrote to was reached, or nobody is called so.")}
			</Empty>
		);
	return (
		<Empty title={t("Nothing was sent yet.")}>
			{t("Every invitation, change and cancellation that you send is followed here to its reader.")}
		</Empty>
	);
}
