// What was changed on a page and is not saved yet, step by step, so that each can be undone and done again.
import { useReducer } from "react";
import type { Edits } from "./useDesk";

type Steps = {
  past: Partial<Edits>[];
  now: Partial<Edits>;
  future: Partial<Edits>[];
  /** What the last step changed, and when it was last gone on with. */
  last: { what: string; at: number } | null;
};

type Act =
  | { kind: "change"; next: Partial<Edits>; what: string; at: number }
  | { kind: "undo" }
  | { kind: "redo" }
  | { kind: "forget" };

const MOST_STEPS = 200;
/** Typing on in the same place within this time, in milliseconds, goes on with the step. */
const ONE_STEP = 1000;

export function useEdits(before: Partial<Edits>) {
  const [{ past, now, future }, act] = useReducer(stepped, { past: [], now: before, future: [], last: null });
  return {
    edits: now,
    mayUndo: past.length > 0,
    mayRedo: future.length > 0,
    /** `what` names the place that is changed. */
    change: (next: Partial<Edits>, what: string) =>
      act({ kind: "change", next, what, at: performance.now() }),
    undo: () => act({ kind: "undo" }),
    redo: () => act({ kind: "redo" }),
    forget: () => act({ kind: "forget" }),
  };
}

/** The steps after an act. */
export function stepped(steps: Steps, act: Act): Steps {
  const { past, now, future, last } = steps;
  if (act.kind === "forget") return { past: [], now: {}, future: [], last: null };
  if (act.kind === "undo") {
    const before = past.at(-1);
    return before ? { past: past.slice(0, -1), now: before, future: [now, ...future], last: null } : steps;
  }
  if (act.kind === "redo") {
    const [after, ...rest] = future;
    return after ? { past: [...past, now], now: after, future: rest, last: null } : steps;
  }
  const goesOn = last !== null && last.what === act.what && act.at - last.at < ONE_STEP;
  return {
    past: goesOn ? past : [...past, now].slice(-MOST_STEPS),
    now: { ...now, ...act.next },
    future: [],
    last: { what: act.what, at: act.at },
  };
}
