import { t } from "../tongue/tongue";
import { Button } from "../ui/kit";
import type { Fault } from "./deeds";

/** What is the matter with a description, at its line. */
export const FaultWords = ({ fault: f, onLook }: { fault: Fault; onLook: () => void }) => (
	<>
		{f.line > 0 && (
			<Button look="bare" onClick={onLook}>
				{t("Line %s", f.line)}
			</Button>
		)}{" "}
		{f.sentence}
		{f.near.length > 0 && (
			<>
				{" "}
				{t("Near it:")} <b className="font-[650]">{f.near.join(", ")}</b>
			</>
		)}
	</>
);
