import { problemOf } from "../api/client";
import { t } from "../tongue/tongue";
import { Button, Note } from "./kit";

/** Says why something cannot be shown, with the way to ask for it again. */
export const TryAgain = ({ error, again }: { error: unknown; again: () => void }) => (
	<Note tone="brick">
		{problemOf(error).detail}{" "}
		<Button look="bare" onClick={again}>
			{t("Try again")}
		</Button>
	</Note>
);
