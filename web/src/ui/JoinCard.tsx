import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { ChevronRight } from "lucide-react";
import type { ReactNode } from "react";
import type { Schemas } from "../api/client";
import { many, t, term } from "../tongue/tongue";
import { useCopy } from "./copy";
import { Button, Kbd, lookOf } from "./kit";

export type Card = Schemas["Card"];

/** What kind of link a card has. */
export const kinds = {
	fresh: term("fresh link"),
	standing: term("standing link"),
	given: term("link of somebody else"),
} as const;

/** Everything a person needs to get into the call. */
export function JoinCard({ card, withKey, children }: { card: Card; withKey?: boolean; children?: ReactNode }) {
	const copy = useCopy();
	return (
		<section
			aria-label={t("Join card")}
			className="rounded-r-[4px] border border-rule border-l-4 border-l-fig bg-paper px-3.5 py-3"
		>
			<div className="flex items-baseline justify-between gap-3">
				<h2 className="text-[16px]">{t("Join card")}</h2>
				<span className="text-quiet text-small">{[card.name, t(kinds[card.kind])].filter(Boolean).join(" · ")}</span>
			</div>
			<CardLines card={card} />
			{!card.follows && (
				<div className="flex flex-wrap gap-2">
					{card.url && (
						<a href={card.url} className={lookOf("go")}>
							{t("Join")}
						</a>
					)}
					<Button onClick={() => copy(card.text, t("Join card"))}>
						{t("Copy card")}
						{withKey && <Kbd>c</Kbd>}
					</Button>
					{card.url && <Button onClick={() => copy(card.url, t("Link"))}>{t("Copy link")}</Button>}
					<Button onClick={() => copy(card.chat, t("Line for a chat"))}>{t("Copy for a chat")}</Button>
				</div>
			)}
			{card.pasted && (
				<Disclosure as="div" className="mt-2">
					<DisclosureButton className="text-moss text-small underline underline-offset-3">
						{t("the text that it was read from")}
					</DisclosureButton>
					<DisclosurePanel className="mt-1 max-h-[200px] overflow-auto border border-rule bg-sheet p-2 text-small whitespace-pre-line break-words">
						{card.pasted}
					</DisclosurePanel>
				</Disclosure>
			)}
			{children}
		</section>
	);
}

/** The lines of a card; phones of other countries are folded. */
export function CardLines({ card }: { card: Card }) {
	return (
		<dl className="my-2 grid grid-cols-[72px_minmax(0,1fr)] gap-y-1 text-body">
			{card.lines.map((l) => (
				<Line key={l.label + l.value} label={l.label}>
					{l.link ? (
						<a href={l.link} className="inline-block break-all text-small underline">
							{l.way ? card.shortUrl : l.value}
						</a>
					) : (
						l.value
					)}
				</Line>
			))}
			{card.near.length > 0 && (
				<Line label={t("By phone")}>
					{card.near.map((p) => (
						<Phone key={p.link} phone={p} />
					))}
					{card.far.length > 0 && (
						<Disclosure as="div">
							<DisclosureButton className="group flex items-center gap-0.5 text-moss text-small underline underline-offset-3">
								<ChevronRight aria-hidden size={13} className="group-data-open:rotate-90" />
								{many(card.countries ?? 0, "%d more country", "%d more countries")}
							</DisclosureButton>
							<DisclosurePanel as="ul" className="mt-1 flex flex-col gap-1 text-small">
								{card.far.map((p) => (
									<li key={p.link}>
										<Phone phone={p} pin={card.near[0]?.pin} />
									</li>
								))}
							</DisclosurePanel>
						</Disclosure>
					)}
				</Line>
			)}
		</dl>
	);
}

const Line = ({ label, children }: { label: string; children: ReactNode }) => (
	<div className="contents">
		<dt className="text-quiet">{label}</dt>
		<dd className="min-w-0">{children}</dd>
	</div>
);

/** A number to dial; what is keyed in after it is left out where it is what was said before. */
function Phone({ phone: p, pin }: { phone: Schemas["CardPhone"]; pin?: string }) {
	return (
		<span className="block">
			<a href={p.link} className="whitespace-nowrap underline">
				{p.words}
			</a>{" "}
			<span className="text-quiet text-small">
				{p.where}
				{p.pin && p.pin !== pin && `, ${t("then %s#", p.pin)}`}
			</span>
		</span>
	);
}
