// A value that changes in quick succession, as others need to know of it.
import { useEffect, useRef, useState } from "react";

/** Milliseconds within which one change follows another. */
export const SOON = 200;

/** The value, of changes that follow each other the first and the last: what rests on it is not fetched for each. */
export function useSettled<Value extends string>(value: Value): Value {
  const [settled, settle] = useState(value);
  const last = useRef(Number.NEGATIVE_INFINITY);
  useEffect(() => {
    const soon = performance.now() - last.current < SOON;
    last.current = performance.now();
    const waiting = setTimeout(() => settle(value), soon ? SOON : 0);
    return () => clearTimeout(waiting);
  }, [value]);
  return settled;
}
