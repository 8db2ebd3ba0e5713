// Where somebody wanted to go, when an address came from outside.

/** The address within this application that a text names; null for anything that would lead elsewhere. */
export function placeHere(to: string | null, origin = window.location.origin): string | null {
  if (!to?.startsWith("/")) return null;
  try {
    const { origin: there, pathname, search, hash } = new URL(to, origin);
    return there === origin && !pathname.startsWith("//") ? pathname + search + hash : null;
  } catch {
    return null;
  }
}
