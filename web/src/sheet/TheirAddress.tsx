import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, problemOf, type Schemas, take } from "../api/client";
import { anyOf } from "../api/keys";
import { t } from "../tongue/tongue";
import { Button, FieldFault, fieldLook, Label, Note } from "../ui/kit";
import { useSay } from "../ui/notice";
import { Question } from "../ui/Question";

function useTheirs<T>(mutationFn: (what: T) => Promise<unknown>) {
	const queries = useQueryClient();
	return useMutation({
		mutationFn,
		onSuccess: () => queries.invalidateQueries(anyOf("day", "dates", "openings", "seriesOpenings")),
	});
}

/** Where somebody outside publishes when they are busy: kept with them, for everybody in the house. */
export function TheirAddress({ lane, onClose }: { lane: Schemas["Lane"]; onClose: () => void }) {
	const say = useSay();
	const keep = useTheirs((address: string) =>
		take(api.PUT("/api/outside/busy", { body: { email: lane.email, name: lane.name, address } })),
	);
	const forget = useTheirs<void>(() =>
		take(api.DELETE("/api/outside/busy", { params: { query: { email: lane.email } } })),
	);
	const [address, setAddress] = useState("");
	const problem = keep.error && problemOf(keep.error);
	const fault = problem?.errors?.[0]?.detail;
	const done = (words: string) => ({
		onSuccess: () => {
			say(words);
			onClose();
		},
	});
	return (
		<Question title={t("When %s is busy", lane.name)} onClose={onClose}>
			<form
				className="mt-2 flex flex-col gap-2.5"
				onSubmit={(e) => {
					e.preventDefault();
					keep.mutate(address, done(t("Kept with them; their time is seen from now on")));
				}}
			>
				<div>
					<Label htmlFor="their-address">{t("The address at which they publish it (.ifb or .ics)")}</Label>
					<input
						id="their-address"
						autoComplete="off"
						aria-invalid={!!fault}
						aria-describedby="fault-their-address"
						className={fieldLook(!!fault)}
						value={address}
						onChange={(e) => setAddress(e.target.value)}
					/>
					<FieldFault id="fault-their-address" sentence={fault} />
				</div>
				{problem && !fault && <Note tone="brick">{problem.detail}</Note>}
				<p className="text-quiet text-small">
					{t("It is kept for everybody here. Only busy and clear is shown of it.")}
				</p>
				<div className="flex gap-2">
					<Button look="go" type="submit" busy={keep.isPending} disabled={address.trim() === ""}>
						{t("Keep it")}
					</Button>
					{lane.published && (
						<Button
							busy={forget.isPending}
							onClick={() => forget.mutate(undefined, done(t("Their time is not known any more")))}
						>
							{t("Forget theirs")}
						</Button>
					)}
					<Button onClick={onClose}>{t("Close")}</Button>
				</div>
			</form>
		</Question>
	);
}
