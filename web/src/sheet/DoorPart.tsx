import { useState } from "react";
import { faultIn, problemOf, type Schemas } from "../api/client";
import { type Term, t, term } from "../tongue/tongue";
import { Button, FieldFault, fieldLook } from "../ui/kit";
import { useSetDoor } from "./calls";
import type { Part } from "./part";

const words = {
	waits: { nobody: term("nobody"), guests: term("guests from outside"), all: term("everybody") },
	speaks: { all: term("everybody"), organisers: term("the organisers only") },
	starts: { anybody: term("when somebody is there"), organiser: term("when I am there") },
} satisfies Record<string, Record<string, Term>>;

const labels = { waits: term("Waits"), speaks: term("May speak and present"), starts: term("Starts") } as const;

type Props = { part: Part; choices: Schemas["DoorChoices"]; stays: boolean };

/** Who waits, who speaks and when it starts, as far as the provider of the call can. */
export function DoorPart({ part: { sheet, store }, choices, stays }: Props) {
	const set = useSetDoor(sheet.id);
	const [own, setOwn] = useState<string | null>(null);
	const door = sheet.card?.setDoor ?? {};
	const change = async (what: Schemas["SetDoor"]) => {
		if (await store.save()) set.mutate({ ...door, ...what }, { onSuccess: () => setOwn(null) });
	};
	const fault = set.error ? faultIn(problemOf(set.error), "passcode") : undefined;
	return (
		<section aria-label={t("At the door")} className="mt-3">
			<h3 className="font-display font-[650] text-[15px]">
				{t("At the door")}{" "}
				<span className="font-normal text-quiet text-small">{t("what %s can do", sheet.card?.name)}</span>
			</h3>
			<div className="mt-1 flex flex-wrap gap-x-6 gap-y-1.5 text-[13px]">
				{(["waits", "speaks", "starts"] as const).map(
					(what) =>
						choices[what].length > 1 && (
							<label key={what}>
								{t(labels[what])}:{" "}
								<select
									className="rounded-[3px] border border-rule bg-white px-1 py-0.5"
									value={door[what] ?? ""}
									disabled={set.isPending}
									onChange={(e) => void change({ [what]: e.target.value })}
								>
									{choices[what].map((c) => (
										<option key={c} value={c}>
											{t((words[what] as Record<string, Term>)[c] ?? c)}
										</option>
									))}
								</select>
							</label>
						),
				)}
				{choices.ownPasscode && (
					<div>
						<span className="flex flex-wrap items-center gap-1">
							{t("Passcode")}: {own === null && <b className="font-[650]">{sheet.card?.passcode}</b>}
							{own === null && !stays && (
								<Button look="bare" className="text-small" onClick={() => setOwn("")}>
									{t("another")}
								</Button>
							)}
							{own !== null && (
								<>
									<input
										aria-label={t("Another passcode")}
										aria-invalid={!!fault}
										aria-describedby={fault && "fault-passcode"}
										className={`${fieldLook(!!fault)} max-w-[140px]`}
										value={own}
										onChange={(e) => setOwn(e.target.value)}
										onKeyDown={(e) => e.key === "Enter" && void change({ passcode: own })}
									/>
									<Button busy={set.isPending} onClick={() => void change({ passcode: own })}>
										{t("Set")}
									</Button>
								</>
							)}
						</span>
						{stays && <span className="text-quiet text-small">{t("it has been sent and stays")}</span>}
						<FieldFault id="fault-passcode" sentence={fault} />
					</div>
				)}
			</div>
			{set.error && !fault && <p className="text-brick text-small">{problemOf(set.error).detail}</p>}
		</section>
	);
}
