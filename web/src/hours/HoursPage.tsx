import { faultIn, problemOf, type Schemas } from "../api/client";
import { useSignedIn } from "../api/me";
import { useTitle } from "../shell/title";
import { t } from "../tongue/tongue";
import { inBase64 } from "../ui/base64";
import { FileButton } from "../ui/FileButton";
import { FieldFault, lookOf, Note, Skeleton } from "../ui/kit";
import { useSay } from "../ui/notice";
import { TryAgain } from "../ui/TryAgain";
import { Calendars } from "./Calendars";
import type { Shown } from "./DayTrack";
import { stretchesOf } from "./day";
import { useHours, useTakeFile } from "./deeds";
import { Given } from "./Given";
import { OtherDays } from "./OtherDays";
import { Sharing } from "./Sharing";
import { WorkWeek } from "./WorkWeek";

/** One's hours and leave, the calendars that count, who sees what, and what is given to others. */
export function HoursPage() {
	const me = useSignedIn();
	const hours = useHours();
	useTitle(t("Hours and calendars"));
	const page = hours.data;
	return (
		<div className="flex min-w-0 flex-1 flex-wrap lg:flex-nowrap">
			<main className="min-w-0 flex-1 px-5 py-3.5 max-sm:px-2">
				<div className="text-quiet text-small">{me.name}</div>
				<h1 className="text-[23px]">{t("Hours and calendars")}</h1>
				{hours.isPending && <Skeleton lines={6} />}
				{hours.error && !page && <TryAgain error={hours.error} again={() => hours.refetch()} />}
				{page && (
					<>
						<WorkWeek page={page} shown={shownHours(page)} />
						<OtherDays page={page} shown={shownHours(page)} />
						<Files version={page.version} />
					</>
				)}
			</main>
			{page && (
				<aside
					aria-label={t("Calendars and who sees what")}
					className="w-full min-w-0 shrink-0 border-rule border-l bg-sheet px-[18px] py-4 lg:w-[404px]"
				>
					<Calendars page={page} />
					<Sharing page={page} />
					<Given page={page} />
				</aside>
			)}
		</div>
	);
}

/** The hours that the rows show: the usual ones, and more where somebody works outside of them. */
function shownHours(page: Schemas["HoursPage"]): Shown {
	const all = [...page.week, ...page.other.map((o) => o.hours)].flatMap(stretchesOf);
	return {
		from: Math.min(7, ...all.map((s) => Math.floor(s.start / 60))),
		until: Math.max(21, ...all.map((s) => Math.ceil(s.end / 60))),
	};
}

function Files({ version }: { version: number }) {
	const take = useTakeFile();
	const say = useSay();
	const problem = take.error && problemOf(take.error);
	const fault = faultIn(problem, "file", "b64");
	return (
		<div className="mt-3 text-body">
			<span className="text-quiet">{t("As a file (VAVAILABILITY):")} </span>
			<a href="/api/hours/file" download className={`${lookOf("bare")} text-body`}>
				{t("save my hours")}
			</a>{" "}
			·{" "}
			<FileButton
				label={t("A file with hours")}
				accept=".ics,text/calendar"
				busy={take.isPending}
				onFile={async (f) =>
					take.mutate(
						{ version, b64: await inBase64(f) },
						{ onSuccess: () => say(t("The hours are as the file has them")) },
					)
				}
			>
				{t("take hours from a file")}
			</FileButton>
			<FieldFault id="fault-hours-file" sentence={fault} />
			{problem && !fault && <Note tone="brick">{problem.detail}</Note>}
		</div>
	);
}
