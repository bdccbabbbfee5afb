import { useMutation, useQuery } from "@tanstack/react-query";
import { type SubmitEvent, useState } from "react";
import { useParams } from "react-router";
import { api, ProblemError, problemOf, type Schemas, take } from "../api/client";
import { keys } from "../api/keys";
import { city, zoneOf } from "../time/format";
import { InTongue } from "../tongue/InTongue";
import { t, term } from "../tongue/tongue";
import { JoinCard } from "../ui/JoinCard";
import { Button, Note, Skeleton } from "../ui/kit";
import { Linked } from "../ui/Linked";
import { NameAndAddress, type Someone } from "../ui/NameAndAddress";
import { TryAgain } from "../ui/TryAgain";
import { Gone } from "./Gone";
import { Head } from "./Head";

/** A meeting at its short address, for whoever has that. */
export function AtAddress() {
	const { code = "" } = useParams();
	const at = useQuery({
		queryKey: keys.address(code),
		queryFn: () => take(api.GET("/api/guest/at/{code}", { params: { path: { code } } })),
	});
	const gone = at.error instanceof ProblemError && at.error.problem.status === 404;
	return (
		<main className="mx-auto max-w-[720px] px-4 py-[30px]">
			{at.isPending && <Skeleton lines={6} />}
			{at.data && <InTongue language={at.data.language}>{() => <View m={at.data} code={code} />}</InTongue>}
			{gone && !at.data && (
				<Gone
					title={term("There is no meeting at this address any more")}
					what={term(
						"It may be over, the address may have been withdrawn, or it is not complete. Ask whoever gave it to you.",
					)}
				/>
			)}
			{at.error && !gone && !at.data && <TryAgain error={at.error} again={() => at.refetch()} />}
		</main>
	);
}

function View({ m, code }: { m: Schemas["AtAddress"]; code: string }) {
	const here = Intl.DateTimeFormat().resolvedOptions().timeZone;
	const zone = zoneOf(m, here);
	return (
		<div className="rounded-[4px] border border-rule border-t-[6px] border-t-moss bg-sheet px-8 py-6 max-sm:px-4">
			<Head
				by={t("A meeting of %[1]s, %[2]s", m.organiser, m.house)}
				m={m}
				repeats={m.repeats && t("%s; the next date is", m.repeats)}
				zone={zone}
				zoneShown={!m.allDay && <span className="text-[14px] text-quiet">{t("%s time", city(zone))}</span>}
			/>
			{m.calledOff && (
				<div className="mt-4">
					<Note tone="brick">
						<b>{t("This meeting has been called off.")}</b>
					</Note>
				</div>
			)}
			{m.asks && <Ask code={code} organiser={m.organiser} />}
			{m.text && (
				<p className="mt-4 whitespace-pre-line break-words">
					<Linked>{m.text}</Linked>
				</p>
			)}
			{m.card && (
				<div className="mt-4 max-w-[420px]">
					<JoinCard card={m.card} />
				</div>
			)}
		</div>
	);
}

/** Whoever comes gets an invitation of their own, and answers in it. */
function Ask({ code, organiser }: { code: string; organiser: string }) {
	const [own, setOwn] = useState<Someone>({ name: "", email: "" });
	const join = useMutation({
		mutationFn: (body: Schemas["Brings"]) =>
			take(api.POST("/api/guest/at/{code}/join", { params: { path: { code } }, body })),
	});
	const problem = join.error && problemOf(join.error);
	const fault = problem?.errors?.find((f) => f.field === "email")?.detail;
	const submit = (e: SubmitEvent) => {
		e.preventDefault();
		join.mutate(own);
	};
	if (join.isSuccess)
		return (
			<div className="mt-4" role="status">
				<Note tone="moss">
					<b>{t("An invitation is on its way to %s.", join.variables.email)}</b>{" "}
					{t(
						"Answer in it, and put it into your calendar. If you had been invited before, answer in the mail that you have.",
					)}
				</Note>
			</div>
		);
	return (
		<form onSubmit={submit} noValidate className="mt-4 rounded-[4px] border border-rule bg-paper p-3">
			<h2 className="text-[16px]">{t("Will you come?")}</h2>
			<p className="mt-0.5 mb-2 text-quiet text-small">
				{t(
					"You get an invitation by mail, with the join details and a calendar file. %s sees that you asked for it.",
					organiser,
				)}
			</p>
			<div className="grid items-start gap-2 sm:grid-cols-[minmax(0,1fr)_auto]">
				<NameAndAddress is={own} onIs={setOwn} fault={fault} own />
				<div className="sm:pt-[18px]">
					<Button type="submit" look="go" busy={join.isPending}>
						{t("Invite me")}
					</Button>
				</div>
			</div>
			{problem && !fault && (
				<div className="mt-2">
					<Note tone="brick">{problem.detail}</Note>
				</div>
			)}
		</form>
	);
}
