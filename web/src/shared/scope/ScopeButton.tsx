// Where something holds, told in a line that opens the editor.
import { useState } from "react";
import { Dialog, DialogButtons } from "../Dialog";
import { Button } from "../ui";
import { Covers, OnlyFor, Where } from "./ScopeEditor";
import { type Scope, scopeWords } from "./scope";
import { useScopeNames } from "./useScopeNames";

type ScopeProps = { scope: Scope; onChange: (scope: Scope) => void };

export function ScopeButton(props: ScopeProps) {
  return (
    <div className="mb-3">
      <p className="mb-1 text-sm font-semibold">Where</p>
      <ScopeLine {...props} className="w-full text-left" />
    </div>
  );
}

/** The line alone; `label` tells what it is about where nothing beside it does. */
export function ScopeLine({
  scope,
  onChange,
  label,
  className = "",
}: ScopeProps & { label?: string; className?: string }) {
  const [open, setOpen] = useState(false);
  const names = useScopeNames(scope.branches ?? []);
  const words = scopeWords(scope, names);
  return (
    <>
      <Button
        onClick={() => setOpen(true)}
        className={`truncate ${className}`}
        aria-label={label && `${label}: ${words}`}
      >
        {words}
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} title="Where it holds" size="wide">
        <div className="grid grid-cols-[200px_1fr] gap-6">
          <OnlyFor scope={scope} onChange={onChange} />
          <div>
            <Where scope={scope} onChange={onChange} />
            <div className="mt-2">
              <Covers scope={scope} />
            </div>
          </div>
        </div>
        <DialogButtons>
          <Button look="main" onClick={() => setOpen(false)}>
            Done
          </Button>
        </DialogButtons>
      </Dialog>
    </>
  );
}
