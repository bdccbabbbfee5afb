import { Link } from "react-router";
import { t } from "../tongue/tongue";
import { Empty } from "../ui/kit";

/** An address that leads nowhere, or to something not to be seen. */
export const Lost = ({ what = t("There is nothing at this address") }: { what?: string }) => (
	<main className="mx-auto w-full max-w-[480px] p-8">
		<Empty title={what} action={<Link to="/weeks">{t("To your weeks")}</Link>}>
			{t("It may have been called off or thrown away, or it is not yours to see.")}
		</Empty>
	</main>
);
