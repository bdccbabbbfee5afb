/** How long the program may take before that is said, and before a request is given up. */
export const silentAfter = 2000;
const givenUpAfter = 30_000;

export type Answering = "yes" | "slow" | "away";

let now: Answering = "yes";
let slow = 0;
const hearers = new Set<() => void>();

function set(next: Answering) {
	if (next === now) return;
	now = next;
	for (const hear of hearers) hear();
}

/** Whether the program answers: for parts of the page to subscribe to. */
export const answering = {
	get: () => now,
	subscribe: (hear: () => void) => {
		hearers.add(hear);
		return () => {
			hearers.delete(hear);
		};
	},
};

/** A file takes as long as the line makes it. */
const bringsFile = (r: Request) => r.method === "POST" && new URL(r.url).pathname === "/api/files";

/** Asks the program, and notices when it does not answer. */
export async function ask(request: Request): Promise<Response> {
	const times = bringsFile(request) ? 20 : 1;
	let late = false;
	const timer = setTimeout(() => {
		late = true;
		slow++;
		if (now === "yes") set("slow");
	}, silentAfter * times);
	try {
		const signal = AbortSignal.any([request.signal, AbortSignal.timeout(givenUpAfter * times)]);
		const response = await fetch(request, { signal });
		if (late) slow--;
		late = false;
		// What stands before the program may answer for it.
		if ([502, 503, 504].includes(response.status)) set("away");
		else if (slow === 0 || now === "away") set(slow === 0 ? "yes" : "slow");
		return response;
	} catch (error) {
		if (!request.signal.aborted) set("away");
		throw error;
	} finally {
		clearTimeout(timer);
		if (late) slow--;
	}
}
