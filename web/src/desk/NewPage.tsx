// A new page: where it stands, what kind it is, its title, and the fields that may be filled in.
import { useState } from "react";
import { useNavigate } from "react-router";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { TextField } from "../shared/fields";
import { PlacePicker } from "../shared/PlacePicker";
import { PlainInput } from "../shared/PlainInput";
import type { TreeName } from "../shared/tree/nodes";
import { Button, Chip, Empty, ErrorNotice, Labelled } from "../shared/ui";
import { type NewKind, useMakePage, useNewKinds } from "./usePlaces";

type NewProps = {
  open: boolean;
  onClose: () => void;
  tree: TreeName;
  /** Where it is to stand at first, or else, where nothing may be made there, at `orAt`. */
  at: string;
  orAt: string;
};

export function NewPage({ open, onClose, tree, at, orAt }: NewProps) {
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title={tree === "media" ? "New folder or file" : "New page"}
      size="small"
    >
      <Form tree={tree} at={at} orAt={orAt} onClose={onClose} />
    </Dialog>
  );
}

function Form({ tree, at, orAt, onClose }: Omit<NewProps, "open">) {
  const [picked, setParent] = useState("");
  const here = useNewKinds(at);
  const parent = picked || (at === "" || here.data?.length === 0 ? orAt : at);
  const [kind, setKind] = useState("");
  const [title, setTitle] = useState("");
  const [values, setValues] = useState<Record<string, string>>({});
  const kinds = useNewKinds(parent);
  const make = useMakePage();
  const navigate = useNavigate();
  const problem = make.error instanceof ProblemError ? make.error : null;
  const chosen = kinds.data?.find(({ type }) => type === kind) ?? kinds.data?.[0];
  const filled = Object.fromEntries(Object.entries(values).filter(([, value]) => value !== ""));
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!chosen) return;
        make.mutate(
          { parent, type: chosen.type, title, values: filled },
          {
            onSuccess: (page) => {
              onClose();
              navigate(`/desk/${page.id}${window.location.search}`);
            },
          },
        );
      }}
    >
      <Labelled label="Under" error={problem?.at("/parent")}>
        {(id, by) => <PlacePicker id={id} describedBy={by} tree={tree} value={parent} onPick={setParent} />}
      </Labelled>
      {parent && kinds.data?.length === 0 && (
        <Empty title="Nothing may be made there by you">Choose another page for it to stand under.</Empty>
      )}
      <ErrorNotice error={kinds.error} />
      {chosen && (
        <>
          <Kinds kinds={kinds.data ?? []} chosen={chosen.type} onChoose={setKind} />
          <TextField
            label="Title"
            error={problem?.at("/title")}
            value={title}
            max={200}
            onChange={setTitle}
          />
          <Fields
            kind={chosen}
            values={values}
            problem={problem}
            onValue={(key, value) => setValues({ ...values, [key]: value })}
          />
        </>
      )}
      {problem && !problem.problem.errors && <ErrorNotice error={problem} />}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={!chosen || make.isPending}>
          Make it
        </Button>
      </DialogButtons>
    </form>
  );
}

type KindsProps = { kinds: NewKind[]; chosen: string; onChoose: (type: string) => void };

function Kinds({ kinds, chosen, onChoose }: KindsProps) {
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-sm font-semibold">Kind</legend>
      <div className="flex flex-wrap gap-1.5">
        {kinds.map(({ type, name }) => (
          <Chip key={type} on={type === chosen} onClick={() => onChoose(type)}>
            {name}
          </Chip>
        ))}
      </div>
    </fieldset>
  );
}

type FieldsProps = {
  kind: NewKind;
  values: Record<string, string>;
  problem: ProblemError | null;
  onValue: (key: string, value: string) => void;
};

/** Short fields at once; long texts, pictures and the like are filled in on the page itself. */
function Fields({ kind, values, problem, onValue }: FieldsProps) {
  const short = kind.fields.filter(({ kind: sort }) => ["text", "number", "date", "choice"].includes(sort));
  return short.map((field) => (
    <Labelled key={field.key} label={field.name} error={problem?.at(`/values/${field.key}`)}>
      {(id, by) => (
        <PlainInput
          id={id}
          describedBy={by}
          kind={field.kind}
          choices={field.choices}
          value={values[field.key]}
          invalid={Boolean(problem?.at(`/values/${field.key}`))}
          onChange={(value) => onValue(field.key, String(value))}
        />
      )}
    </Labelled>
  ));
}
