import { t } from "../tongue/tongue";
import { useCopy } from "./copy";
import { Button } from "./kit";

/** A secret address, to copy in both of its forms and to withdraw. */
export function FeedLinks({ url, withdraw, busy }: { url: string; withdraw: () => void; busy: boolean }) {
	const copy = useCopy();
	return (
		<>
			<Button look="bare" className="-ml-1" onClick={() => copy(url, t("The address as a calendar"))}>
				{t("copy address")}
			</Button>{" "}
			·{" "}
			<Button look="bare" onClick={() => copy(url.replace(/\.ics$/, ".ifb"), t("The address of busy times alone"))}>
				{t("busy times alone")}
			</Button>{" "}
			·{" "}
			<Button look="bare" busy={busy} onClick={withdraw}>
				{t("withdraw")}
			</Button>
		</>
	);
}
