/** Puts text on the clipboard; false when the browser does not allow it. */
export async function copyText(text: string): Promise<boolean> {
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
