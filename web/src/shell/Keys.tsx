// The list of keys. `?` opens it.
import { useState } from "react";
import { Dialog } from "../shared/Dialog";
import { useHotkey } from "../shared/useHotkey";

const KEYS: [string, [string, string][]][] = [
  [
    "Everywhere",
    [
      ["Ctrl K", "find anything"],
      ["/", "filter by words"],
      ["Ctrl S", "save the page that is being edited"],
      ["Ctrl Z", "undo the last staged change; on a page that is being edited, the last step"],
      ["Ctrl Shift Z", "on a page, the step again that was undone"],
      ["?", "this list"],
      ["Esc", "close what is open"],
    ],
  ],
  [
    "On the board",
    [
      ["← ↑ → ↓", "move among answers"],
      ["Shift + arrows", "select several"],
      ["x", "begin or end a selection; arrows extend it"],
      ["o  t  a", "own, team, all"],
      ["y", "yes, for duties"],
      ["w", "withhold"],
      ["b", "bar"],
      ["Backspace", "say nothing"],
      ["Home  End", "to the ends of a row; with Ctrl of the board"],
    ],
  ],
  [
    "In the tree of limits",
    [
      ["→  ←", "from a branch into its cells, and back"],
      ["Shift + arrows", "choose several cells"],
      ["s  b  l", "stop, bar, lift"],
      ["Backspace", "let go of what is set there"],
    ],
  ],
  [
    "In lists and trees",
    [
      ["Space, then arrows", "pick a role, or a part of a page, up and move it"],
      ["Alt + ↑ ↓", "move a page among its neighbours, or a part of a page"],
      ["← →", "close and open a branch"],
    ],
  ],
];

export function Keys() {
  const [open, setOpen] = useState(false);
  useHotkey({ key: "?" }, () => setOpen(true));
  return (
    <Dialog open={open} onClose={() => setOpen(false)} title="Keys">
      {KEYS.map(([where, keys]) => (
        <section key={where} className="mb-3">
          <h3 className="mb-1 text-xs font-semibold text-ink2">{where}</h3>
          <dl className="grid grid-cols-[150px_1fr] gap-y-[3px] text-sm">
            {keys.map(([key, does]) => (
              <div key={key} className="contents">
                <dt>
                  <kbd className="rounded border border-line px-1.5 text-xs">{key}</kbd>
                </dt>
                <dd>{does}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
    </Dialog>
  );
}
