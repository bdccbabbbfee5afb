/** A file as the program takes it. */
export async function inBase64(file: File) {
	const bytes = new Uint8Array(await file.arrayBuffer());
	let text = "";
	for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
	return btoa(text);
}
