import { useState } from "react";
import { faultIn, problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { People } from "../rooms/People";
import { useTitle } from "../shell/title";
import { many, t } from "../tongue/tongue";
import { useCopy } from "../ui/copy";
import { CardLines } from "../ui/JoinCard";
import { Button, Empty, FieldFault, fieldLook, Label, Skeleton, Tag } from "../ui/kit";
import { Question } from "../ui/Question";
import { TryAgain } from "../ui/TryAgain";
import { type Standing, useDrop, useKeep, useRoomsAt, useStanding } from "./deeds";

/** Permanent ways into a call: one's own and those of groups. */
export function StandingPage() {
	const all = useStanding();
	const [writing, setWriting] = useState<Standing | "new" | null>(null);
	useTitle(t("Standing rooms"));
	return (
		<main className="mx-auto w-full max-w-[900px] px-5 py-4">
			<div className="flex flex-wrap items-baseline gap-3">
				<h1 className="text-[23px]">{t("Standing rooms")}</h1>
				<span className="text-quiet text-small">
					{t("calls that are always there; take them on a sheet instead of a fresh link")}
				</span>
				<Button className="ml-auto" onClick={() => setWriting("new")}>
					{t("Add a standing room")}
				</Button>
			</div>
			{all.isPending && <Skeleton lines={4} />}
			{all.error && <TryAgain error={all.error} again={() => all.refetch()} />}
			{all.data?.items.length === 0 && (
				<div className="mt-4">
					<Empty
						title={t("No standing room yet")}
						action={<Button onClick={() => setWriting("new")}>{t("Add a standing room")}</Button>}
					>
						{t("One of a provider’s, or one that somebody gave you: its address stays, whatever you meet for.")}
					</Empty>
				</div>
			)}
			<ul className="mt-3 grid gap-3 sm:grid-cols-2">
				{all.data?.items.map((l) => (
					<li key={l.id} className="rounded-[4px] border border-rule bg-sheet px-4 py-3">
						<One link={l} onWrite={() => setWriting(l)} />
					</li>
				))}
			</ul>
			{writing && <Write link={writing === "new" ? null : writing} onClose={() => setWriting(null)} />}
		</main>
	);
}

const uses = (n: number) =>
	n === 0 ? t("in no meeting to come") : many(n, "in 1 meeting to come", "in %d meetings to come");

function One({ link: l, onWrite }: { link: Standing; onWrite: () => void }) {
	const copy = useCopy();
	const [asking, setAsking] = useState(false);
	return (
		<>
			<div className="flex flex-wrap items-baseline gap-2">
				<h2 className="text-[16px]">{l.name}</h2>
				{l.group && <Tag>{t("group")}</Tag>}
				<span className="ml-auto text-quiet text-small">{l.mine ? l.card.name : t("%s keeps it", l.owner)}</span>
			</div>
			<CardLines card={l.card} />
			<p className="text-quiet text-small">
				{l.sharedWith.length > 0 && `${t("With %s", l.sharedWith.map((p) => p.name).join(", "))} · `}
				{uses(l.uses)}
			</p>
			<div className="mt-1.5 flex flex-wrap gap-2">
				<Button onClick={() => copy(l.card.text, t("Join card"))}>{t("Copy card")}</Button>
				{l.mine && <Button onClick={onWrite}>{t("Change")}</Button>}
				{l.mine && <Button onClick={() => setAsking(true)}>{t("Remove")}</Button>}
			</div>
			{asking && <Remove link={l} onClose={() => setAsking(false)} />}
		</>
	);
}

function Remove({ link: l, onClose }: { link: Standing; onClose: () => void }) {
	const drop = useDrop();
	return (
		<Question title={t("Remove “%s”?", l.name)} onClose={onClose}>
			<p className="my-2 text-body">
				{t("Nobody can choose it any more.")}{" "}
				{l.uses > 0 && t("What is %s keeps its link; change those meetings to take another call.", uses(l.uses))}
			</p>
			{drop.error && <p className="text-brick text-small">{problemOf(drop.error).detail}</p>}
			<div className="flex gap-2">
				<Button look="stop" busy={drop.isPending} onClick={() => drop.mutate(l.id, { onSuccess: onClose })}>
					{t("Remove")}
				</Button>
				<Button onClick={onClose}>{t("Leave it")}</Button>
			</div>
		</Question>
	);
}

/** A standing room is added or changed. */
function Write({ link, onClose }: { link: Standing | null; onClose: () => void }) {
	const { providers } = useSignedIn();
	const standing = providers.filter((p) => p.standing);
	const keep = useKeep();
	const [id] = useState(() => link?.id ?? crypto.randomUUID());
	const [name, setName] = useState(link?.name ?? "");
	const [group, setGroup] = useState(link?.group ?? false);
	const [people, setPeople] = useState<Schemas["RoomPerson"][]>(
		link?.sharedWith.map((p) => ({ id: p.personId ?? "", name: p.name })) ?? [],
	);
	const [provider, setProvider] = useState(link ? "" : (standing[0]?.key ?? ""));
	const [room, setRoom] = useState("");
	const [text, setText] = useState("");
	const rooms = useRoomsAt(provider);
	const problem = keep.error && problemOf(keep.error);
	const save = () =>
		keep.mutate(
			{
				id,
				name,
				group,
				sharedWith: people.map((p) => p.id),
				...(provider && room ? { provider, room } : provider === "" && text.trim() ? { text } : {}),
			},
			{ onSuccess: onClose },
		);
	return (
		<Question title={link ? t("Change “%s”", link.name) : t("Add a standing room")} onClose={onClose}>
			<form
				className="mt-2 flex flex-col gap-2 text-body"
				onSubmit={(e) => {
					e.preventDefault();
					save();
				}}
			>
				<div>
					<Label htmlFor="standing-name">{t("Name")}</Label>
					<input
						id="standing-name"
						className={fieldLook(!!faultIn(problem, "name"))}
						placeholder={t("My room, Loans desk")}
						value={name}
						onChange={(e) => setName(e.target.value)}
					/>
					<FieldFault id="fault-standing-name" sentence={faultIn(problem, "name")} />
				</div>
				<div>
					<Label htmlFor="standing-from">{t("Its call")}</Label>
					<select
						id="standing-from"
						className={fieldLook(!!faultIn(problem, "call"))}
						value={provider}
						onChange={(e) => {
							setProvider(e.target.value);
							setRoom("");
						}}
					>
						{standing.map((p) => (
							<option key={p.key} value={p.key}>
								{t("a room at %s", p.name)}
							</option>
						))}
						<option value="">{link ? t("stays, or as pasted below") : t("somebody gave it to me")}</option>
					</select>
				</div>
				{provider !== "" ? (
					<div>
						<select
							aria-label={t("Room")}
							className={fieldLook(!!faultIn(problem, "call"))}
							value={room}
							disabled={rooms.isPending}
							onChange={(e) => setRoom(e.target.value)}
						>
							<option value="">{rooms.isPending ? t("Asking for the rooms…") : t("Choose a room")}</option>
							{rooms.data?.items.map((r) => (
								<option key={r.url} value={r.url}>
									{r.name}
								</option>
							))}
						</select>
						{rooms.error && <p className="text-brick text-small">{problemOf(rooms.error).detail}</p>}
					</div>
				) : (
					<textarea
						aria-label={t("The invitation or the link")}
						rows={2}
						placeholder={t("Paste its invitation or its link")}
						className={`${fieldLook(!!faultIn(problem, "text"))} placeholder:text-quiet`}
						value={text}
						onChange={(e) => setText(e.target.value)}
					/>
				)}
				<FieldFault id="fault-standing-call" sentence={faultIn(problem, "call", "text")} />
				<label className="flex items-center gap-1.5">
					<input type="checkbox" checked={group} onChange={(e) => setGroup(e.target.checked)} />
					{t("of a group, not of me alone")}
				</label>
				<People
					label={t("Who uses it too, as co-organisers")}
					none={t("nobody else")}
					people={people}
					fault={faultIn(problem, "sharedWith")}
					set={setPeople}
				/>
				{link && link.uses > 0 && (provider !== "" || text.trim() !== "") && (
					<p className="text-honey text-small">
						{t("It is %s: those get the new call, and everybody invited is told once for each.", uses(link.uses))}
					</p>
				)}
				{problem && !problem.errors && <p className="text-brick text-small">{problem.detail}</p>}
				<div className="flex gap-2">
					<Button look="go" type="submit" busy={keep.isPending}>
						{t("Keep it")}
					</Button>
					<Button onClick={onClose}>{t("Leave it")}</Button>
				</div>
			</form>
		</Question>
	);
}
