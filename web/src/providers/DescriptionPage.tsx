import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { ProblemError, problemOf } from "../api/client";
import { useSignedIn } from "../api/me";
import { inZone, shortDay } from "../time/format";
import { many, t } from "../tongue/tongue";
import { Button, Note, Tag } from "../ui/kit";
import { useSay } from "../ui/notice";
import { Question } from "../ui/Question";
import { type Fault, type Provider, useCheck, useRestore, useStop, useTry, useUse, useWrite } from "./deeds";
import { Editor } from "./Editor";
import { FaultWords } from "./FaultWords";
import { Secrets } from "./Secrets";
import { Trial } from "./Trial";

/** One description: written, checked, tried and put into use. */
export function DescriptionPage({ provider }: { provider: Provider }) {
	const { key, name, inUse, version } = provider;
	const { zone } = useSignedIn();
	const say = useSay();
	const [params, setParams] = useSearchParams();
	const [text, setText] = useState(provider.description);
	const [base, setBase] = useState(provider.descriptionVersion);
	const [faults, setFaults] = useState<Fault[]>(provider.faults);
	const [line, setLine] = useState(0);
	const write = useWrite(key);
	const use = useUse(key);
	const attempt = useTry(key);
	const check = useCheck();
	const restore = useRestore(key);
	const [asking, setAsking] = useState(false);
	const written = text !== provider.description;
	// What somebody else wrote comes in where nothing is being written here.
	useEffect(() => {
		if (provider.descriptionVersion !== base && !written) setBase(provider.descriptionVersion);
	}, [provider.descriptionVersion, base, written]);
	useEffect(() => {
		if (!written) return;
		const warn = (e: BeforeUnloadEvent) => e.preventDefault();
		window.addEventListener("beforeunload", warn);
		return () => window.removeEventListener("beforeunload", warn);
	}, [written]);
	const keep = async (on = base): Promise<Provider | null> => {
		if (!written) return provider;
		try {
			const kept = await write.mutateAsync({ text, version: on });
			setBase(kept.descriptionVersion);
			setFaults(kept.faults);
			return kept;
		} catch {
			return null;
		}
	};
	const look = async () => {
		const kept = await keep();
		if (kept) setFaults(kept.faults);
	};
	const trial = async () => {
		if (!(await keep())) return;
		attempt.mutate(undefined, {
			onSuccess: (t) => setLine(t.steps.find((s) => s.fault)?.fault?.line ?? 0),
		});
	};
	const putIntoUse = async () => {
		const kept = await keep();
		if (!kept) return;
		setFaults(kept.faults);
		if (kept.faults.length === 0)
			use.mutate(kept.descriptionVersion, {
				onSuccess: (now) => say(t("%s is in use as version %s", now.name, now.version)),
			});
	};
	const takeTheirs = () => {
		const theirs = provider;
		setText(theirs.description);
		setBase(theirs.descriptionVersion);
		write.reset();
	};
	const overtaken = write.error instanceof ProblemError && write.error.kind === "description-changed";
	const newest = provider.versions[0];
	return (
		<div className="grid min-w-0 grid-cols-1 xl:grid-cols-[minmax(0,1fr)_390px]">
			<section aria-label={t("Description of %s", name)} className="min-w-0 px-[18px] py-3.5">
				<div className="mb-2 flex flex-wrap items-center gap-2">
					<h2 className="text-[19px]">{name}</h2>
					{inUse && newest ? (
						<Tag>{t("version %s, %s", version, shortDay(inZone(newest.at, zone).toPlainDate()))}</Tag>
					) : (
						<Tag tone="honey">{version > 0 ? t("out of use") : t("not in use yet")}</Tag>
					)}
					{(written || (provider.changed && inUse)) && <Tag tone="honey">{t("written, not in use")}</Tag>}
					<span className="ml-auto flex flex-wrap gap-2">
						<Button busy={write.isPending || check.isPending} onClick={() => void look()}>
							{t("Check")}
						</Button>
						<Button busy={attempt.isPending} onClick={() => void trial()}>
							{t("Try it")}
						</Button>
						<Button look="go" busy={use.isPending} onClick={() => void putIntoUse()}>
							{t("Put into use")}
						</Button>
					</span>
				</div>
				<div aria-live="polite" className="flex flex-col gap-1.5 empty:hidden">
					{params.get("attach") && (
						<Note tone="moss">
							{t("You are signed in at %s.", name)}{" "}
							<Button look="bare" onClick={() => setParams({}, { replace: true })}>
								{t("Good")}
							</Button>
						</Note>
					)}
					{(params.get("refused") || params.get("away")) && (
						<Note>
							{t(
								"%s Look at the addresses and the secrets, then sign in again.",
								params.get("away") ? t("%s does not answer.", name) : t("%s did not let you in.", name),
							)}
						</Note>
					)}
					{faults.map((f) => (
						<Note key={`${f.line} ${f.sentence}`} tone="brick">
							<FaultWords fault={f} onLook={() => setLine(f.line)} />
						</Note>
					))}
					{overtaken && (
						<Note tone="brick">
							<b>{t("Another window wrote this description.")}</b> {t("What you wrote is still here.")}{" "}
							<Button look="bare" onClick={takeTheirs}>
								{t("Look at theirs instead")}
							</Button>{" "}
							<Button look="bare" busy={write.isPending} onClick={() => void keep(provider.descriptionVersion)}>
								{t("Keep what is here")}
							</Button>
						</Note>
					)}
					{write.error && !overtaken && <Note tone="brick">{problemOf(write.error).detail}</Note>}
					{use.error && <Note tone="brick">{problemOf(use.error).detail}</Note>}
				</div>
				<Editor
					text={text}
					bad={faults.map((f) => f.line).concat(line)}
					line={line}
					onWrite={(t) => {
						setText(t);
						setLine(0);
					}}
				/>
				<p className="mt-1 text-quiet text-small">
					{t(
						"%s A call that was made by an earlier version goes on with it.",
						written ? t("Kept when it is checked, tried or put into use.") : "Kept.",
					)}
				</p>
			</section>
			<aside
				aria-label={t("Trial, secrets and versions")}
				className="flex min-w-0 flex-col gap-4 border-rule border-l bg-sheet px-[18px] py-3.5"
			>
				<Trial provider={provider} attempt={attempt} onLine={setLine} />
				<Secrets provider={provider} />
				{provider.versions.length > 0 && (
					<section aria-label={t("Versions")}>
						<h3 className="font-display font-[650] text-[15px]">{t("Versions")}</h3>
						<ol className="text-small">
							{provider.versions.map((v) => (
								<li key={v.number} className="flex flex-wrap items-baseline gap-x-2">
									<span>
										{v.number} · {shortDay(inZone(v.at, zone).toPlainDate())}
										{v.by && ` · ${v.by}`}
									</span>
									{v.number === version && inUse ? (
										<span className="text-moss">{t("in use")}</span>
									) : (
										<Button
											look="bare"
											className="text-small"
											busy={restore.isPending}
											onClick={() =>
												restore.mutate(
													{ version: base, number: v.number },
													{
														onSuccess: (now) => {
															setText(now.description);
															setBase(now.descriptionVersion);
															setFaults(now.faults);
														},
													},
												)
											}
										>
											{t("Write this one again")}
										</Button>
									)}
								</li>
							))}
						</ol>
						{restore.error && <p className="text-brick text-small">{problemOf(restore.error).detail}</p>}
					</section>
				)}
				<div>
					<Button look="stop" onClick={() => setAsking(true)} disabled={!inUse && version > 0}>
						{version > 0 ? t("Take out of use") : t("Forget this description")}
					</Button>
				</div>
			</aside>
			{asking && <Stop provider={provider} onClose={() => setAsking(false)} />}
		</div>
	);
}

function Stop({ provider: p, onClose }: { provider: Provider; onClose: () => void }) {
	const stop = useStop(p.key);
	return (
		<Question
			title={p.version > 0 ? t("Take %s out of use?", p.name) : t("Forget the description of %s?", p.name)}
			onClose={onClose}
		>
			<p className="my-2 text-body">
				{p.version > 0
					? `${t("Nobody can choose it any more.")} ${
							p.calls === 0
								? t("No meeting to come has its call there.")
								: many(
										p.calls,
										"1 meeting to come keeps its call: it moves and is withdrawn as before.",
										"%d meetings to come keep their calls: they move and are withdrawn as before.",
									)
						}`
					: t("It was never in use.")}
			</p>
			{stop.error && <p className="text-brick text-small">{problemOf(stop.error).detail}</p>}
			<div className="flex gap-2">
				<Button look="stop" busy={stop.isPending} onClick={() => stop.mutate(undefined, { onSuccess: onClose })}>
					{p.version > 0 ? t("Take out of use") : t("Forget it")}
				</Button>
				<Button onClick={onClose}>{t("Leave it")}</Button>
			</div>
		</Question>
	);
}
