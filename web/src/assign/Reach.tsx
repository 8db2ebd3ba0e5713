// Confining an account to branches of content and media, chosen in the trees.
import { useState } from "react";
import { useStage } from "../shared/changes/changeSet";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { BranchTree } from "../shared/tree/BranchTree";
import type { TreeName } from "../shared/tree/nodes";
import { Button, Chip, ErrorNotice } from "../shared/ui";
import type { AccountData } from "../shared/useAccounts";

type ReachProps = { open: boolean; onClose: () => void; data: AccountData };

export function Reach({ open, onClose, data }: ReachProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`Confine ${data.account.name} to branches`} size="large">
      {open && <Form onClose={onClose} data={data} />}
    </Dialog>
  );
}

const TREES: { tree: TreeName; name: string }[] = [
  { tree: "content", name: "Pages" },
  { tree: "media", name: "Media" },
];

function Form({ onClose, data }: Omit<ReachProps, "open">) {
  const [reach, setReach] = useState<Record<TreeName, string[] | null>>({
    content: known(data, "content"),
    media: known(data, "media"),
  });
  const stage = useStage();
  return (
    <div>
      <p className="mb-3 text-sm text-ink2">
        Whatever is given, it then counts on these branches alone. What lies above them is known by name, for
        the way.
      </p>
      <div className="grid grid-cols-2 gap-6">
        {TREES.map(({ tree, name }) => {
          const branches = reach[tree];
          return (
            <div key={tree}>
              <div className="mb-2 flex gap-1.5">
                <Chip on={branches === null} onClick={() => setReach({ ...reach, [tree]: null })}>
                  Not confined
                </Chip>
                <Chip on={branches !== null} onClick={() => setReach({ ...reach, [tree]: branches ?? [] })}>
                  Confined
                </Chip>
              </div>
              {branches === null ? (
                <p className="text-sm text-ink2">
                  {name}: wherever roles and limits let {data.account.name} go.
                </p>
              ) : (
                <>
                  <BranchTree
                    label={name}
                    only={tree}
                    chosen={branches}
                    onChange={(ids) => setReach({ ...reach, [tree]: ids })}
                  />
                  {branches.length === 0 && (
                    <p className="mt-1 text-xs text-bar">With no branch chosen the whole tree is closed.</p>
                  )}
                </>
              )}
            </div>
          );
        })}
      </div>
      <ErrorNotice error={stage.error} />
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="main"
          disabled={stage.isPending}
          onClick={() =>
            stage.mutate(
              TREES.map(({ tree }) => ({
                kind: "set-reach",
                account: data.account.id,
                tree,
                branches: reach[tree],
              })),
              { onSuccess: onClose },
            )
          }
        >
          Stage it
        </Button>
      </DialogButtons>
    </div>
  );
}

function known(data: AccountData, tree: TreeName): string[] | null {
  const branches = data.reach[tree];
  return branches ? branches.flatMap(({ id }) => (id === null ? [] : [id])) : null;
}
