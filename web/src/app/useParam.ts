// One search parameter of the address as state.
import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigationType, useSearchParams } from "react-router";

/**
 * The value of a search parameter and a way to set it; an empty value leaves it out.
 *
 * The value changes at once and the address follows, so that fast typing never meets an old value;
 * an address changed by anything else, back and forward too, is taken over.
 */
export function useParam(name: string): [string, (value: string) => void] {
  const [params, setParams] = useSearchParams();
  const kind = useNavigationType();
  const inAddress = params.get(name) ?? "";
  const [value, setValue] = useState(inAddress);
  const onItsWay = useRef<string | null>(null);

  useEffect(() => {
    if (onItsWay.current === null || onItsWay.current === inAddress || kind !== "REPLACE") {
      onItsWay.current = null;
      setValue(inAddress);
    }
  }, [inAddress, kind]);

  const set = useCallback(
    (next: string) => {
      setValue(next);
      const now = new URLSearchParams(window.location.search);
      onItsWay.current = (now.get(name) ?? "") === next ? null : next;
      if (next) now.set(name, next);
      else now.delete(name);
      setParams(now, { replace: true });
    },
    [name, setParams],
  );
  return [value, set];
}
