import { t } from "../tongue/tongue";

/** "You have Crate sizes, 9:30 – 10:30; Yard round, 10:00 – 11:00 then." */
export const clashWords = (all: string[]) =>
	all.length > 3
		? t("You have %s then, and %s more.", all.slice(0, 3).join("; "), all.length - 3)
		: t("You have %s then.", all.join("; "));
