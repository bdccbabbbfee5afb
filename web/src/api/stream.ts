import type { Notice } from "./keys";

const name = "jembro-live";
const againAfter = 5000;
const here = `${performance.timeOrigin}-${Math.random()}`;

type SessionNotice = Notice & { from: string };

/**
 * Hears notices as long as it is not stopped. All windows of a browser share one stream: whoever has the lock holds it
 * and tells the others. It lets go when its page goes, also into the cache of the back button, and the next one takes
 * over.
 */
export function listen(hear: (n: Notice) => void): () => void {
	const channel = new BroadcastChannel(name);
	channel.onmessage = (e: MessageEvent<Notice>) => hear(e.data);
	const tell = (n: Notice) => {
		hear(n);
		channel.postMessage(n);
	};
	let stop = take(tell);
	const leave = () => stop();
	const comeBack = (e: PageTransitionEvent) => {
		if (!e.persisted) return;
		stop = take(tell);
		hear({ topic: "all" });
	};
	window.addEventListener("pagehide", leave);
	window.addEventListener("pageshow", comeBack);
	return () => {
		window.removeEventListener("pagehide", leave);
		window.removeEventListener("pageshow", comeBack);
		stop();
		channel.close();
	};
}

/** Says to all other windows of this browser that somebody signed in or out. */
export function tellOfSession() {
	const channel = new BroadcastChannel(name);
	channel.postMessage({ topic: "session", from: here } satisfies SessionNotice);
	channel.close();
}

/** Hears that from other windows, while nobody is signed in here. */
export function hearOfSession(hear: () => void) {
	const channel = new BroadcastChannel(name);
	channel.onmessage = (e: MessageEvent<SessionNotice>) => e.data.topic === "session" && e.data.from !== here && hear();
	return () => channel.close();
}

/** Waits for the lock and holds the stream while it has it; returns how to let go. */
function take(tell: (n: Notice) => void): () => void {
	const waiting = new AbortController();
	let letGo = () => {};
	const hold = () =>
		new Promise<void>((done) => {
			if (waiting.signal.aborted) return done();
			const close = open(tell);
			letGo = () => {
				close();
				done();
			};
		});
	// Locks are there where the page came over a safe way; without them every window has a stream of its own.
	if (navigator.locks) navigator.locks.request(name, { signal: waiting.signal }, hold).catch(() => {});
	else void hold();
	return () => {
		waiting.abort();
		letGo();
	};
}

function open(tell: (n: Notice) => void): () => void {
	let stream: EventSource;
	let timer: ReturnType<typeof setTimeout> | undefined;
	const begin = () => {
		stream = new EventSource("/api/live");
		stream.addEventListener("changed", (e: MessageEvent<string>) => tell(JSON.parse(e.data)));
		// What changed before the stream was open, it does not tell.
		stream.onopen = () => tell({ topic: "all" });
		stream.onerror = () => {
			if (stream.readyState !== EventSource.CLOSED) return; // the browser tries again by itself
			tell({ topic: "session" });
			timer = setTimeout(begin, againAfter);
		};
	};
	begin();
	return () => {
		clearTimeout(timer);
		stream.close();
	};
}
