// Where something holds, told in a line that opens the editor.
import { useState } from "react";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Button } from "../shared/ui";
import { Covers, OnlyFor, Where } from "./ScopeEditor";
import { type Scope, scopeWords } from "./scope";
import { useScopeNames } from "./useScopeNames";

export function ScopeButton({ scope, onChange }: { scope: Scope; onChange: (scope: Scope) => void }) {
  const [open, setOpen] = useState(false);
  const names = useScopeNames(scope.branches ?? []);
  return (
    <div className="mb-3">
      <p className="mb-1 text-sm font-semibold">Where</p>
      <Button onClick={() => setOpen(true)} className="w-full truncate text-left">
        {scopeWords(scope, names)}
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
    </div>
  );
}
