import { problemOf } from "../api/client";
import { Button, Note } from "./kit";

/** Says why something cannot be shown, with the way to ask for it again. */
export const TryAgain = ({ error, again }: { error: unknown; again: () => void }) => (
	<Note tone="brick">
		{problemOf(error).detail}{" "}
		<Button look="bare" onClick={again}>
			Try again
		</Button>
	</Note>
);
