// What was typed and not saved yet, kept in this browser for whoever typed it: a closed tab loses nothing.

const PREFIX = "gonfalon-typed";

export type Kept<T> = { edits: T; tag: string };

const key = (account: string, page: string) => `${PREFIX} ${account} ${page}`;

/** What an account typed into a page in this browser, and on top of which version; null where there is nothing. */
export function typedBefore<T>(account: string, page: string): Kept<T> | null {
  const text = localStorage.getItem(key(account, page));
  return text === null ? null : (JSON.parse(text) as Kept<T>);
}

/** Keep it, or with null forget it. A browser that is full keeps nothing, and all else goes on. */
export function keepTyped<T>(account: string, page: string, kept: Kept<T> | null) {
  try {
    if (kept === null) localStorage.removeItem(key(account, page));
    else localStorage.setItem(key(account, page), JSON.stringify(kept));
  } catch (full) {
    if (!(full instanceof DOMException)) throw full;
  }
}

/** Whether anything was typed in this browser and not saved. */
export function anyTyped(): boolean {
  return Object.keys(localStorage).some((kept) => kept.startsWith(PREFIX));
}

/** Forget all of it: whoever signs out leaves nothing behind. */
export function forgetTyped() {
  for (const kept of Object.keys(localStorage)) if (kept.startsWith(PREFIX)) localStorage.removeItem(kept);
}
