// What can be done with several pages chosen in the tree; each that is refused is told with its reason.
import { useState } from "react";
import type { Shapes } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Menu, MenuItem } from "../shared/Menu";
import { PlacePicker } from "../shared/PlacePicker";
import { count } from "../shared/time";
import type { TreeName } from "../shared/tree/nodes";
import { Button, ErrorNotice, Labelled } from "../shared/ui";
import { useMany } from "./usePlaces";

type Action = Shapes["ManyPagesInputRequest"]["action"];
const ACTIONS: { key: Action; name: string }[] = [
  { key: "publish", name: "Publish" },
  { key: "retire", name: "Retire" },
  { key: "move", name: "Move" },
  { key: "remove", name: "Remove" },
];

type SeveralProps = { chosen: string[]; tree: TreeName; onDone: () => void };

export function Several({ chosen, tree, onDone }: SeveralProps) {
  const [action, act] = useState<Action | null>(null);
  return (
    <div className="flex items-center gap-2 border-t border-line bg-warm px-3 py-2 text-sm">
      <span className="flex-1">{count(chosen.length, "page")} chosen</span>
      <Menu trigger={<Button>Do…</Button>}>
        {ACTIONS.map(({ key, name }) => (
          <MenuItem key={key} onSelect={() => act(key)}>
            {name}
          </MenuItem>
        ))}
      </Menu>
      <Button look="quiet" onClick={onDone}>
        None
      </Button>
      {action && (
        <Doing action={action} chosen={chosen} tree={tree} onClose={() => act(null)} onDone={onDone} />
      )}
    </div>
  );
}

type DoingProps = SeveralProps & { action: Action; onClose: () => void };

function Doing({ action, chosen, tree, onClose, onDone }: DoingProps) {
  const [to, setTo] = useState("");
  const [together, setTogether] = useState(false);
  const many = useMany();
  const name = ACTIONS.find(({ key }) => key === action)?.name ?? "";
  const refused = many.data?.pages.filter(({ done }) => !done) ?? [];
  const unseen = refused.filter(({ unseen }) => unseen).map(({ id }) => id);
  const close = many.data?.done ? onDone : onClose;
  return (
    <Dialog open onClose={close} title={`${name} ${count(chosen.length, "page")}`}>
      {many.data ? (
        <Outcome done={many.data.done} refused={refused} />
      ) : (
        <>
          {action === "remove" && (
            <p className="mb-2">They go into the bin with what is beneath them, and can be brought back.</p>
          )}
          {action === "move" && (
            <Labelled label="Under">
              {(id) => <PlacePicker id={id} tree={tree} value={to} onPick={setTo} />}
            </Labelled>
          )}
          <label className="flex items-baseline gap-2 text-sm">
            <input type="checkbox" checked={together} onChange={() => setTogether(!together)} />
            Only if all of them can be
          </label>
        </>
      )}
      <ErrorNotice error={many.error} />
      <DialogButtons>
        <Button onClick={close}>{many.data ? "Close" : "Cancel"}</Button>
        {unseen.length > 0 && (
          <Button
            disabled={many.isPending}
            onClick={() =>
              many.mutate({
                nodes: together ? chosen : unseen,
                action,
                together,
                although_unseen: true,
              })
            }
          >
            Publish {together ? "them" : count(unseen.length, "page")} all the same
          </Button>
        )}
        {!many.data && (
          <Button
            look="main"
            disabled={many.isPending || (action === "move" && !to)}
            onClick={() =>
              many.mutate({
                nodes: chosen,
                action,
                together,
                although_unseen: false,
                ...(action === "move" ? { to } : {}),
              })
            }
          >
            {name} them
          </Button>
        )}
      </DialogButtons>
    </Dialog>
  );
}

type OutcomeProps = { done: number; refused: Shapes["OneOfManyShape"][] };

function Outcome({ done, refused }: OutcomeProps) {
  return (
    <div role="status">
      <p>
        {done === 0 ? "Nothing was done." : `Done with ${count(done, "page")}.`}{" "}
        {refused.length > 0 && "Not with:"}
      </p>
      <ul className="mt-2 max-h-[280px] overflow-y-auto">
        {refused.map(({ id, title, why }) => (
          <li key={id} className="border-b border-linen2 py-1.5 text-sm">
            <strong className="font-semibold">{title ?? "A page out of sight"}</strong>{" "}
            <span className="text-ink2">{why || "would have been done, but not all could be"}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
