import { Button } from "../ui/kit";
import type { Fault } from "./deeds";

/** What is the matter with a description, at its line. */
export const FaultWords = ({ fault: f, onLook }: { fault: Fault; onLook: () => void }) => (
	<>
		{f.line > 0 && (
			<Button look="bare" onClick={onLook}>
				Line {f.line}
			</Button>
		)}{" "}
		{f.sentence}
		{f.near.length > 0 && (
			<>
				{" "}
				Near it: <b className="font-[650]">{f.near.join(", ")}</b>
			</>
		)}
	</>
);
