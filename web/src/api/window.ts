/** What this window calls itself: it need not hear of its own deeds. */
export const thisWindow: string = crypto.randomUUID();
