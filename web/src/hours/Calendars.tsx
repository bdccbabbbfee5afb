import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useState } from "react";
import { faultIn, problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { moment } from "../time/format";
import { useNow } from "../time/now";
import { many, t } from "../tongue/tongue";
import { inBase64 } from "../ui/base64";
import { useDrop } from "../ui/drop";
import { FileButton } from "../ui/FileButton";
import { Button, FieldFault, fieldLook, itemLook, Note, Tag } from "../ui/kit";
import { useSay } from "../ui/notice";
import { age } from "./age";
import { useAddCalendar, useChangeCalendar, useReadCalendar, useRemoveCalendar } from "./deeds";

/** The calendars kept elsewhere, each with its age, and whether it counts. */
export function Calendars({ page }: { page: Schemas["HoursPage"] }) {
	return (
		<section>
			<h2 className="text-[19px]">{t("Calendars that count")}</h2>
			<p className="text-quiet text-small">{t("a time is clear only when it is clear in all of these")}</p>
			<ul className="mt-1">
				<li className="border-rule border-b py-2">
					<div className="flex items-baseline justify-between gap-2">
						<b className="font-[650]">Jembro</b>
						<Tag tone="moss">{t("counts")}</Tag>
					</div>
					<div className="text-quiet text-small">{t("meetings here, and leave")}</div>
				</li>
				{page.calendars.map((c) => (
					<Kept key={c.id} calendar={c} />
				))}
			</ul>
			<Add />
		</section>
	);
}

function Kept({ calendar: c }: { calendar: Schemas["OtherCalendar"] }) {
	const me = useSignedIn();
	const now = useNow();
	const change = useChangeCalendar();
	const read = useReadCalendar();
	const remove = useRemoveCalendar();
	const [asked, setAsked] = useState<"address" | "name" | null>(null);
	const [text, setText] = useState("");
	const ask = (what: "address" | "name") => {
		setText(what === "name" ? c.name : "");
		setAsked(what);
	};
	const problem = change.error ?? read.error ?? remove.error;
	const fault = change.error && asked && faultIn(problemOf(change.error), asked);
	const old = c.readAt ? age(c.readAt, now) : "";
	return (
		<li aria-label={c.name} className="border-rule border-b py-2">
			<div className="flex items-baseline justify-between gap-2">
				<b className="min-w-0 truncate font-[650]" title={c.name}>
					{c.name}
				</b>
				<Standing calendar={c} old={old} change={change.mutate} rename={() => ask("name")} remove={remove.mutate} />
			</div>
			<div className="flex flex-wrap justify-between gap-x-2 text-quiet text-small">
				<span className="min-w-0 truncate">
					{c.file ? t("file of %s", moment(c.addedAt, me.zone, now)) : c.host} ·{" "}
					{many(c.entries, "1 entry", "%d entries")}
					{c.unread > 0 && `, ${t("%s not readable", c.unread)}`}
				</span>
				{!c.file && !c.failingSince && old && <span>{t("%s old", old)}</span>}
			</div>
			{c.failingSince && (
				<p className="text-body text-brick">
					{!c.empty && t("Not read since %s.", moment(c.failingSince, me.zone, now))} {c.problem}{" "}
					{c.readAt && !c.empty && t("What was known until then counts.")}
				</p>
			)}
			{problem && !fault && <Note tone="brick">{problemOf(problem).detail}</Note>}
			<div className="-ml-1 flex flex-wrap gap-x-1.5 text-small">
				{c.empty && (
					<Button look="bare" onClick={() => change.mutate({ id: c.id, empty: true })}>
						{t("It is empty now")}
					</Button>
				)}
				{c.failingSince && (
					<Button look="bare" busy={read.isPending} onClick={() => read.mutate(c.id)}>
						{t("Try now")}
					</Button>
				)}
				{!c.file && c.failingSince && (
					<Button look="bare" onClick={() => ask("address")}>
						{t("Another address")}
					</Button>
				)}
			</div>
			{asked && (
				<form
					className="mt-1 flex gap-2"
					onSubmit={(e) => {
						e.preventDefault();
						change.mutate({ id: c.id, [asked]: text }, { onSuccess: () => setAsked(null) });
					}}
				>
					<div className="min-w-0 flex-1">
						<input
							aria-label={asked === "name" ? t("Another name for %s", c.name) : t("Another address of %s", c.name)}
							aria-invalid={!!fault}
							aria-describedby={`fault-${c.id}`}
							className={fieldLook(!!fault)}
							value={text}
							onChange={(e) => setText(e.target.value)}
							onKeyDown={(e) => e.key === "Escape" && setAsked(null)}
						/>
						<FieldFault id={`fault-${c.id}`} sentence={fault ?? undefined} />
					</div>
					<Button type="submit" busy={change.isPending}>
						{t("Use it")}
					</Button>
				</form>
			)}
		</li>
	);
}

/** How a calendar stands, and what can be done with it. */
function Standing(props: {
	calendar: Schemas["OtherCalendar"];
	old: string;
	change: (c: { id: string; counts: boolean }) => void;
	rename: () => void;
	remove: (id: string) => void;
}) {
	const { calendar: c, old, change, rename, remove } = props;
	const words = c.failingSince
		? old
			? t("%s old", old)
			: t("not read yet")
		: c.counts
			? t("counts")
			: t("shown only");
	const look = c.failingSince
		? "bg-honey-wash text-honey"
		: c.counts
			? "bg-moss-wash text-moss"
			: "bg-slate-wash text-ink";
	const item = `${itemLook} text-body`;
	return (
		<Menu as="div" className="relative shrink-0">
			<MenuButton className={`rounded-[3px] px-1.5 py-px text-small ${look}`}>
				{words} <span aria-hidden>▾</span>
				<span className="sr-only">, {c.name}</span>
			</MenuButton>
			<MenuItems
				modal={false}
				className="absolute right-0 z-20 mt-1 w-56 rounded-[4px] border border-ink bg-sheet shadow-[4px_4px_0_rgb(29_42_44/0.12)]"
			>
				<MenuItem>
					<button type="button" className={item} onClick={() => change({ id: c.id, counts: !c.counts })}>
						{c.counts ? t("Show only, make me not busy") : t("Have it count")}
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={item} onClick={rename}>
						{t("Call it something else")}
					</button>
				</MenuItem>
				<MenuItem>
					<button type="button" className={item} onClick={() => remove(c.id)}>
						{t("Remove %s", c.name)}
					</button>
				</MenuItem>
			</MenuItems>
		</Menu>
	);
}

function Add() {
	const add = useAddCalendar();
	const say = useSay();
	const [address, setAddress] = useState("");
	const problem = add.error && problemOf(add.error);
	const fault = faultIn(problem, "address", "file", "b64");
	const added = { onSuccess: () => say(t("Added; what it holds counts from now on")) };
	const take = async (f: File | undefined) => {
		if (f) add.mutate({ b64: await inBase64(f), name: f.name.replace(/\.(ics|ifb|ical)$/i, ""), counts: true }, added);
	};
	const drop = useDrop((files) => void take(files[0]));
	return (
		<form
			className={`mt-2.5 ${drop.over ? "outline-2 outline-fig outline-dashed" : ""}`}
			onSubmit={(e) => {
				e.preventDefault();
				add.mutate(
					{ address, counts: true },
					{
						onSuccess: () => {
							added.onSuccess();
							setAddress("");
						},
					},
				);
			}}
			{...drop.on}
		>
			<div className="flex gap-2">
				<input
					aria-label={t("Address of a calendar")}
					placeholder={t("Address of a calendar (.ics), or drop a file")}
					aria-invalid={!!fault}
					aria-describedby="fault-add-calendar"
					autoComplete="off"
					className={`${fieldLook(!!fault)} placeholder:text-quiet`}
					value={address}
					onChange={(e) => setAddress(e.target.value)}
				/>
				<Button type="submit" busy={add.isPending} disabled={address.trim() === ""}>
					{t("Add")}
				</Button>
			</div>
			<FieldFault id="fault-add-calendar" sentence={fault} />
			{problem && !fault && <Note tone="brick">{problem.detail}</Note>}
			<FileButton
				label={t("A calendar file")}
				accept=".ics,.ifb,.ical,text/calendar"
				className="-ml-1 text-small"
				onFile={(f) => void take(f)}
			>
				{t("Choose a file")}
			</FileButton>
		</form>
	);
}
