import { t } from "../tongue/tongue";
import { useSay } from "./notice";

/** Copies text and says so, or that the browser does not allow it. */
export function useCopy() {
	const say = useSay();
	return async (text: string, what: string) =>
		say((await copyText(text)) ? t("%s copied", what) : t("The browser does not allow copying here"));
}

/** Puts text on the clipboard; false when the browser does not allow it. */
async function copyText(text: string): Promise<boolean> {
	try {
		await navigator.clipboard.writeText(text);
		return true;
	} catch {
		const area = document.createElement("textarea");
		area.value = text;
		document.body.append(area);
		area.select();
		const done = document.execCommand("copy");
		area.remove();
		return done;
	}
}
