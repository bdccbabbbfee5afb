import { Button as HeadlessButton } from "@headlessui/react";
import type { ComponentProps, ReactNode } from "react";
import { t } from "../tongue/tongue";

type Look = "go" | "plain" | "stop" | "bare";

const looks: Record<Look, string> = {
	go: "border border-moss bg-moss px-3 py-[5px] font-[650] text-white hover:bg-ink hover:border-ink disabled:opacity-45",
	plain: "border border-rule bg-sheet px-[11px] py-[5px] hover:border-ink disabled:opacity-45",
	stop: "border border-brick bg-sheet px-[11px] py-[5px] text-brick hover:bg-brick-wash disabled:opacity-45",
	bare: "px-1 py-0.5 text-moss underline underline-offset-3 hover:text-ink disabled:opacity-45",
};

export const lookOf = (look: Look) =>
	`inline-block rounded-[4px] leading-[21px] whitespace-nowrap no-underline ${looks[look]}`;

export function Button({
	look = "plain",
	busy,
	className = "",
	children,
	...rest
}: ComponentProps<"button"> & { look?: Look; busy?: boolean }) {
	return (
		<HeadlessButton type="button" {...rest} disabled={rest.disabled || busy} className={`${lookOf(look)} ${className}`}>
			{busy && (
				<span
					aria-hidden
					className="mr-1.5 inline-block size-2.5 animate-spin rounded-full border-2 border-current border-r-transparent"
				/>
			)}
			{children}
		</HeadlessButton>
	);
}

export const Kbd = ({ children, onDark }: { children: ReactNode; onDark?: boolean }) => (
	<kbd
		className={`ml-1 rounded-[3px] border border-b-2 px-[5px] font-sans text-[12px] ${onDark ? "border-white/40" : "border-rule bg-sheet text-quiet"}`}
	>
		{children}
	</kbd>
);

type Tone = "slate" | "moss" | "honey" | "brick" | "fig";
const tones: Record<Tone, string> = {
	slate: "bg-slate-wash text-ink",
	moss: "bg-moss-wash text-moss",
	honey: "bg-honey-wash text-honey",
	brick: "bg-brick-wash text-brick",
	fig: "bg-fig-wash text-fig",
};

export const Tag = ({ tone = "slate", children }: { tone?: Tone; children: ReactNode }) => (
	<span className={`inline-block rounded-[3px] px-1.5 py-px text-small whitespace-nowrap ${tones[tone]}`}>
		{children}
	</span>
);

/** The name plate of a room. */
export const Plate = ({ children, small }: { children: ReactNode; small?: boolean }) => (
	<span
		className={`inline-block rounded-[2px] border-current px-[5px] font-semibold whitespace-nowrap ${small ? "border text-[11px] leading-[14px]" : "border-[1.5px] text-small leading-[17px]"}`}
	>
		{children}
	</span>
);

/** Something said in the page; it is read aloud when it appears. */
export function Note({ tone = "honey", children }: { tone?: "honey" | "brick" | "moss"; children: ReactNode }) {
	const edge = {
		honey: "border-honey bg-honey-wash",
		brick: "border-brick bg-brick-wash",
		moss: "border-moss bg-moss-wash",
	}[tone];
	return (
		<div
			role={tone === "moss" ? "status" : "alert"}
			className={`rounded-r-[4px] border-l-[5px] px-3 py-2 text-body ${edge}`}
		>
			{children}
		</div>
	);
}

export const Skeleton = ({ lines = 3 }: { lines?: number }) => (
	<div role="status" aria-label={t("Loading")} className="flex flex-col gap-2 p-4">
		{["w-3/5", "w-full", "w-4/5", "w-2/3", "w-full", "w-1/2"].slice(0, lines).map((w) => (
			<span key={w} className={`h-3 rounded-[2px] bg-rule/60 ${w}`} />
		))}
	</div>
);

export const Empty = ({ title, children, action }: { title: string; children: ReactNode; action?: ReactNode }) => (
	<div className="rounded-[4px] border-[1.5px] border-rule border-dashed p-5 text-center">
		<b>{title}</b>
		<p className="mt-1 mb-2 text-quiet text-small">{children}</p>
		{action}
	</div>
);

export const Label = ({ children, ...rest }: ComponentProps<"label">) => (
	// biome-ignore lint/a11y/noLabelWithoutControl: the caller gives htmlFor
	<label {...rest} className="mb-0.5 block text-quiet text-small">
		{children}
	</label>
);

export const fieldLook = (bad?: boolean) =>
	`w-full rounded-[3px] border bg-white px-2 py-1 ${bad ? "border-brick shadow-[inset_0_-2px_0_var(--color-brick)]" : "border-[#8b8f86]"}`;

/** The list that opens below a field, without its place and width. */
export const listLook =
	"overflow-hidden rounded-[4px] border border-ink bg-sheet shadow-[4px_4px_0_rgb(29_42_44/0.12)]";

/** One of such a list. */
export const optionLook =
	"flex cursor-pointer gap-2 px-2.5 py-1.5 text-body data-focus:bg-fig-wash data-focus:shadow-[inset_4px_0_0_var(--color-fig)]";

/** One of a menu, without the size of its letters. */
export const itemLook =
	"block w-full px-3 py-1.5 text-left data-focus:bg-fig-wash data-focus:shadow-[inset_4px_0_0_var(--color-fig)]";

/** What is wrong at a field, with a way to mend it where there is one. */
export const FieldFault = ({ id, sentence, fix }: { id: string; sentence?: string; fix?: ReactNode }) =>
	sentence ? (
		<p id={id} className="mt-[3px] text-brick text-small">
			{sentence} {fix}
		</p>
	) : null;
