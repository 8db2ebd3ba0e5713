// A key that does something wherever one is, but not while one types.
import { useEffect, useRef } from "react";

type Hotkey = {
  key: string;
  /** With Ctrl, or the command key; such a key also counts while one types, unless `unlessTyping`. */
  control?: boolean;
  unlessTyping?: boolean;
};

export function useHotkey({ key, control = false, unlessTyping = !control }: Hotkey, does: () => void) {
  const latest = useRef(does);
  latest.current = does;
  useEffect(() => {
    function pressed(event: KeyboardEvent) {
      const wanted = event.key.toLowerCase() === key && (event.ctrlKey || event.metaKey) === control;
      if (!wanted || (unlessTyping && isTyping(event.target))) return;
      event.preventDefault();
      latest.current();
    }
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [key, control, unlessTyping]);
}

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof Element && target.closest("input, textarea, select, [contenteditable=true]") !== null
  );
}
