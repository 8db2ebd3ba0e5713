// One search parameter of the address as state.
import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigationType, useSearchParams } from "react-router";
import { SOON } from "./useSettled";

/**
 * The value of a search parameter and a way to set it; an empty value leaves it out.
 *
 * The value changes at once and the address follows, for which a place is drawn anew: of values that follow each other, as while a key is held
 * down, the first and the last are told there. An address changed by anything else, back and forward too, is taken
 * over.
 */
export function useParam(name: string): [string, (value: string) => void] {
  const [params, setParams] = useSearchParams();
  const kind = useNavigationType();
  const inAddress = params.get(name) ?? "";
  const [value, setValue] = useState(inAddress);
  const onItsWay = useRef<string | null>(null);
  const waiting = useRef(0);
  const last = useRef(Number.NEGATIVE_INFINITY);

  useEffect(() => {
    if (onItsWay.current === null || onItsWay.current === inAddress || kind !== "REPLACE") {
      clearTimeout(waiting.current);
      onItsWay.current = null;
      setValue(inAddress);
    }
  }, [inAddress, kind]);

  useEffect(() => () => clearTimeout(waiting.current), []);

  const set = useCallback(
    (next: string) => {
      const place = window.location.pathname;
      function follow() {
        if (window.location.pathname !== place) return; // whoever was here has gone elsewhere meanwhile
        const now = new URLSearchParams(window.location.search);
        if ((now.get(name) ?? "") === next) {
          onItsWay.current = null;
          return;
        }
        if (next) now.set(name, next);
        else now.delete(name);
        setParams(now, { replace: true });
      }
      setValue(next);
      onItsWay.current = next;
      clearTimeout(waiting.current);
      const soon = performance.now() - last.current < SOON;
      last.current = performance.now();
      if (soon) waiting.current = setTimeout(follow, SOON);
      else follow();
    },
    [name, setParams],
  );
  return [value, set];
}
