// A key that does something wherever one is, but not while one types.
import { useEffect, useRef } from "react";

type Hotkey = {
  key: string;
  /** With Ctrl, or the command key; such a key also counts while one types, unless `unlessTyping`. */
  control?: boolean;
  /** With Shift too, where it is with Ctrl. */
  shift?: boolean;
  unlessTyping?: boolean;
  /** Whether it is taken before others that wait for the same key. */
  first?: boolean;
  /** Whether it is waited for at all. */
  on?: boolean;
};

export function useHotkey(
  { key, control = false, shift = false, unlessTyping = !control, first: capture = false, on = true }: Hotkey,
  does: () => void,
) {
  const latest = useRef(does);
  latest.current = does;
  useEffect(() => {
    function pressed(event: KeyboardEvent) {
      const wanted =
        event.key.toLowerCase() === key &&
        (event.ctrlKey || event.metaKey) === control &&
        (!control || event.shiftKey === shift);
      if (!wanted || event.defaultPrevented || (unlessTyping && isTyping(event.target, control))) return;
      event.preventDefault();
      latest.current();
    }
    if (!on) return;
    window.addEventListener("keydown", pressed, { capture });
    return () => window.removeEventListener("keydown", pressed, { capture });
  }, [key, control, shift, unlessTyping, capture, on]);
}

/** Whether somebody types there; what is typed on a page itself is the page's to undo. */
function isTyping(target: EventTarget | null, control: boolean): boolean {
  if (!(target instanceof Element)) return false;
  if (control && target.closest("[data-page-undoes]")) return false;
  return target.closest("input, textarea, select, [contenteditable=true]") !== null;
}
