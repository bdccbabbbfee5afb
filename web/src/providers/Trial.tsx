import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { problemOf, type Schemas } from "../api/client";
import { type Term, t, term } from "../tongue/tongue";
import { CardLines } from "../ui/JoinCard";
import { lookOf } from "../ui/kit";
import type { Provider, useTry } from "./deeds";
import { FaultWords } from "./FaultWords";

type Step = Schemas["TrialStep"];

const names: Record<Step["name"], Term> = {
	description: term("The description is well formed"),
	"sign-in": term("Sign-in"),
	make: term("Make"),
	change: term("Move an hour later"),
	read: term("Read"),
	withdraw: term("Withdraw"),
	list: term("List"),
};

const marks = { ok: "✓", failed: "✕", skipped: "·" } as const;

type Props = { provider: Provider; attempt: ReturnType<typeof useTry>; onLine: (line: number) => void };

/** What a trial asked and was answered, and the card that came out. */
export function Trial({ provider, attempt, onLine }: Props) {
	const trial = attempt.data;
	return (
		<section aria-label={t("Trial")} aria-live="polite">
			<h3 className="font-display font-[650] text-[15px]">{trial ? t("Tried just now") : t("Not tried yet")}</h3>
			<p className="text-quiet text-small">
				{t("A call tomorrow at 9:00, made, moved, withdrawn; secrets are hidden.")}{" "}
				{provider.each && t("It is made in your own account.")}
			</p>
			{attempt.isPending && <p className="mt-1 text-quiet text-small">{t("Asking %s…", provider.name)}</p>}
			{attempt.error && <p className="mt-1 text-brick text-small">{problemOf(attempt.error).detail}</p>}
			{trial && (
				<ol className="mt-1">
					{trial.steps.map((s, i) => (
						// biome-ignore lint/suspicious/noArrayIndexKey: steps come in their order, some twice
						<li key={i} className="border-rule border-b py-1.5 text-[13px]">
							<StepLine step={s} onLine={onLine} />
						</li>
					))}
				</ol>
			)}
			{trial?.steps.some((s) => s.name === "sign-in" && s.outcome === "failed") && provider.each && (
				<p className="mt-2">
					<a href={`/api/connect/${provider.key}/start`} className={lookOf("plain")}>
						{t("Sign in at %s", provider.name)}
					</a>
				</p>
			)}
			{trial?.card && (
				<>
					<h3 className="mt-3 font-display font-[650] text-[15px]">
						{trial.rooms.length > 0 ? t("The first card that comes out") : t("The card that comes out")}
					</h3>
					<div className="mt-1 rounded-r-[4px] border border-rule border-l-4 border-l-fig bg-paper px-3">
						{!trial.card.url && (
							<p className="mt-2 text-[13px]">
								<span className="text-quiet">{t("Link")}</span> <b className="text-brick">{t("missing")}</b>
							</p>
						)}
						<CardLines card={trial.card} />
					</div>
				</>
			)}
			{trial && trial.rooms.length > 1 && (
				<p className="mt-1 text-quiet text-small">{trial.rooms.slice(0, 12).join(" · ")}</p>
			)}
		</section>
	);
}

function StepLine({ step: s, onLine }: { step: Step; onLine: (line: number) => void }) {
	const tone = { ok: "text-moss", failed: "text-brick", skipped: "text-quiet" }[s.outcome];
	const talk = [s.request, s.answer && `→ ${s.answer}`].filter(Boolean).join("\n");
	return (
		<div className="grid grid-cols-[20px_minmax(0,1fr)]">
			<span aria-hidden className={tone}>
				{marks[s.outcome]}
			</span>
			<div className="min-w-0">
				<b className={`font-[650] ${s.outcome === "skipped" ? "font-normal text-quiet" : ""}`}>{t(names[s.name])}</b>{" "}
				<span className="sr-only">{s.outcome}</span>
				<span className="text-quiet">
					{s.status && t("%s, %s ms", s.status, s.millis ?? 0)} {s.note}
				</span>
				{talk && (
					<Disclosure as="div" defaultOpen={s.outcome === "failed"}>
						<DisclosureButton className="text-moss text-small underline underline-offset-3">
							{t("asked and answered")}
						</DisclosureButton>
						<DisclosurePanel>
							<pre className="mt-1 max-h-[180px] overflow-auto rounded-[3px] border border-rule bg-paper p-2 font-mono text-[11.5px] leading-[16px] whitespace-pre-wrap break-all">
								{talk}
							</pre>
						</DisclosurePanel>
					</Disclosure>
				)}
				{s.fault && (
					<p className="mt-1 text-brick">
						<FaultWords fault={s.fault} onLook={() => onLine(s.fault?.line ?? 0)} />
					</p>
				)}
			</div>
		</div>
	);
}
