// Something in a place that is opened by going there: "New role" of Ctrl K goes to Define, and opens it.
import { useEffect, useState } from "react";
import { useLocation } from "react-router";

export type Opened = "new role" | "new kind" | "new page" | "bring in a list" | "review";

/** What one gives `navigate`, so that something opens there. */
export const opening = (what: Opened) => ({ state: { opening: what } });

/** Whether it is open; it opens whenever one comes for it. */
export function useOpenHere(what: Opened): [boolean, (open: boolean) => void] {
  const { state, key } = useLocation();
  const asked = state?.opening === what;
  const [open, set] = useState(asked);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each time that one comes for it
  useEffect(() => {
    if (asked) set(true);
  }, [asked, key]);
  return [open, set];
}
