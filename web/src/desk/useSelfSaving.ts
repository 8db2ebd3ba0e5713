// A draft or a working copy saves itself: once nothing was typed for a moment, and before one leaves.
import { useEffect, useRef } from "react";
import { ProblemError } from "../api/client";

/** Milliseconds without a change, and between tries while there is no connection. */
const PAUSE = 1500;
const AGAIN = 5000;

type SelfSaving = {
  on: boolean;
  /** What is not saved; another value with each change. */
  edits: object;
  dirty: boolean;
  busy: boolean;
  error: Error | null;
  save: () => void;
};

/** Calls `save`, and again after a lost connection; what was refused is not sent again before it is another. */
export function useSelfSaving({ on, edits, dirty, busy, error, save }: SelfSaving) {
  const refused = useRef<object | null>(null);
  const saving = useRef(save);
  saving.current = save;
  const lost = isLost(error);

  // biome-ignore lint/correctness/useExhaustiveDependencies: what was sent, not what is typed since
  useEffect(() => {
    refused.current = error && !lost ? edits : null;
  }, [error]);

  useEffect(() => {
    if (!on || !dirty || busy || refused.current === edits) return;
    let timer = 0;
    const wait = (time: number) => {
      timer = window.setTimeout(() => (inTheMiddle() ? wait(PAUSE) : saving.current()), time);
    };
    wait(lost ? AGAIN : PAUSE);
    const now = () => document.hidden && saving.current();
    const back = () => saving.current();
    document.addEventListener("visibilitychange", now);
    window.addEventListener("online", back);
    return () => {
      clearTimeout(timer);
      document.removeEventListener("visibilitychange", now);
      window.removeEventListener("online", back);
    };
  }, [on, edits, dirty, busy, lost]);
}

export function isLost(error: Error | null): boolean {
  return error instanceof ProblemError && error.problem.reason === "no-connection";
}

/** Whether somebody stopped between two words: what is saved of a field has no blank at its end. */
function inTheMiddle(): boolean {
  const field = document.activeElement;
  const typed = field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement;
  return typed && /\s$/.test(field.value);
}
