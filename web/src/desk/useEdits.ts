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

/** What was sent and is saved now: with what stood there before, and the ids that new parts have by now. */
export type Saved = { sent: Partial<Edits>; before: Partial<Edits>; ids: Map<string, string> };

type Act =
  | { kind: "change"; next: Partial<Edits>; what: string; at: number }
  | { kind: "undo" }
  | { kind: "redo" }
  | { kind: "saved"; saved: Saved }
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
    saved: (saved: Saved) => act({ kind: "saved", saved }),
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
  if (act.kind === "saved") {
    const all = (some: Partial<Edits>[]) => some.map((edits) => onTopOf(act.saved, edits));
    return { past: all(past), now: onTopOf(act.saved, now), future: all(future), last: null };
  }
  const goesOn = last !== null && last.what === act.what && act.at - last.at < ONE_STEP;
  return {
    past: goesOn ? past : [...past, now].slice(-MOST_STEPS),
    now: { ...now, ...act.next },
    future: [],
    last: { what: act.what, at: act.at },
  };
}

/** The same page said as edits of what is saved by now: each step back leads where it led before. */
function onTopOf({ sent, before, ids }: Saved, edits: Partial<Edits>): Partial<Edits> {
  const said = { ...before, ...edits };
  const left: Partial<Edits> = {};
  if (said.title !== undefined && said.title !== sent.title) left.title = said.title;
  if (said.topics && said.topics !== sent.topics) left.topics = said.topics;
  if (said.components && said.components !== sent.components)
    left.components = said.components.map((part) => ({ ...part, id: ids.get(part.id) ?? part.id }));
  const values = Object.entries({ ...before.values, ...edits.values });
  const others = values.filter(
    ([key, value]) => !(sent.values && key in sent.values) || sent.values[key] !== value,
  );
  if (others.length > 0) left.values = Object.fromEntries(others);
  return left;
}
