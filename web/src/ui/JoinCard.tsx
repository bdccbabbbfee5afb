import type { Schemas } from "../api/client";
import { useCopy } from "./copy";
import { Button, Kbd, lookOf } from "./kit";

type Card = Schemas["Card"];

/** Everything a person needs to get into the call. */
export function JoinCard({ card, withKey, children }: { card: Card; withKey?: boolean; children?: React.ReactNode }) {
	const copy = useCopy();
	const lines: [string, React.ReactNode][] = [
		[
			"Link",
			<a key="l" href={card.url} className="break-all text-small underline">
				{card.shortUrl}
			</a>,
		],
	];
	if (card.number) lines.push(["Number", card.number]);
	if (card.passcode) lines.push(["Passcode", card.passcode]);
	if (card.door) lines.push(["Door", card.door]);
	return (
		<section
			aria-label="Join card"
			className="rounded-r-[4px] border border-rule border-l-4 border-l-fig bg-paper px-3.5 py-3"
		>
			<div className="flex items-baseline justify-between gap-3">
				<h2 className="text-[16px]">Join card</h2>
				<span className="text-quiet text-small">{card.name} · fresh link</span>
			</div>
			<dl className="my-2 grid grid-cols-[64px_minmax(0,1fr)] gap-y-1 text-body">
				{lines.map(([label, value]) => (
					<div key={label} className="contents">
						<dt className="text-quiet">{label}</dt>
						<dd>{value}</dd>
					</div>
				))}
			</dl>
			<div className="flex flex-wrap gap-2">
				<a href={card.url} className={lookOf("go")}>
					Join
				</a>
				<Button onClick={() => copy(card.text, "Join card")}>Copy card{withKey && <Kbd>c</Kbd>}</Button>
				<Button onClick={() => copy(card.url, "Link")}>Copy link</Button>
			</div>
			{children}
		</section>
	);
}
