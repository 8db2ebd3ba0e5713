// Beginning a review: what is gone through, who decides and by when, and what becomes of the rest.
import { type Control, useController, useForm } from "react-hook-form";
import { useNavigate } from "react-router";
import { DialogButtons } from "../shared/Dialog";
import { DayField, LineField, showRefused } from "../shared/form";
import { GroupPicker, PersonPicker, RolePicker } from "../shared/pickers";
import { BranchPicker } from "../shared/tree/BranchPicker";
import { Button, Chip } from "../shared/ui";
import { useBeginReview } from "./useReviews";

type Asked = {
  name: string;
  group: string;
  role: string;
  branch: string;
  reviewers: { id: string; name: string }[];
  due_at: string;
  silent: "keep" | "end";
};

const NOTHING_YET: Asked = {
  name: "",
  group: "",
  role: "",
  branch: "",
  reviewers: [],
  due_at: "",
  silent: "keep",
};

export function NewReview({ onClose }: { onClose: () => void }) {
  const { control, register, handleSubmit, setError, formState } = useForm<Asked>({
    defaultValues: NOTHING_YET,
  });
  const wrong = formState.errors;
  const begin = useBeginReview();
  const navigate = useNavigate();
  const submit = handleSubmit((asked) =>
    begin.mutate(
      {
        ...asked,
        group: asked.group || null,
        role: asked.role || null,
        branch: asked.branch || null,
        reviewers: asked.reviewers.map(({ id }) => id),
        due_at: asked.due_at ? new Date(`${asked.due_at}T23:59`).toISOString() : "",
      },
      {
        onSuccess: (row) => {
          onClose();
          navigate(`/assign/reviews/${row.id}`);
        },
        onError: (error) => showRefused(error, setError),
      },
    ),
  );
  return (
    <form onSubmit={submit} noValidate>
      <LineField label="Name" field={register("name")} error={wrong.name?.message} />
      <About control={control} />
      <Deciders control={control} wrong={wrong.reviewers && "Choose who decides."} />
      <DayField label="By" control={control} name="due_at" error={wrong.due_at && "Choose a day to come."} />
      <Silent control={control} />
      {wrong.root && (
        <p role="alert" className="mt-2 text-sm text-bar">
          {wrong.root.message}
        </p>
      )}
      <DialogButtons>
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={begin.isPending}>
          Begin
        </Button>
      </DialogButtons>
    </form>
  );
}

type PartProps = { control: Control<Asked> };

function About({ control }: PartProps) {
  const group = useController({ control, name: "group" }).field;
  const role = useController({ control, name: "role" }).field;
  const branch = useController({ control, name: "branch" }).field;
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-sm font-semibold">What is gone through</legend>
      <div className="grid gap-1.5">
        <GroupPicker value={group.value} none="Any group" onPick={group.onChange} />
        <RolePicker value={role.value} none="Any role" onPick={role.onChange} />
        <BranchPicker
          id="review-branch"
          chosen={branch.value ? [branch.value] : []}
          onChange={(ids) => branch.onChange(ids.at(-1) ?? "")}
        />
      </div>
    </fieldset>
  );
}

function Deciders({ control, wrong }: PartProps & { wrong: string | undefined }) {
  const { value, onChange } = useController({ control, name: "reviewers" }).field;
  const but = (id: string) => value.filter((one) => one.id !== id);
  return (
    <fieldset className="mb-3">
      <legend className="mb-1 text-sm font-semibold">Who decides</legend>
      <div className="flex flex-wrap gap-1.5">
        {value.map((one) => (
          <Chip key={one.id} on onClick={() => onChange(but(one.id))}>
            {one.name}
            <span aria-hidden="true">×</span>
            <span className="sr-only">, leave out</span>
          </Chip>
        ))}
        <PersonPicker
          onPick={() => undefined}
          onPerson={({ key, name }) => onChange([...but(key), { id: key, name }])}
          trigger={<Chip>+ person</Chip>}
        />
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-xs text-bar">
          {wrong}
        </p>
      )}
    </fieldset>
  );
}

const SILENT = [
  ["keep", "kept"],
  ["end", "ended"],
] as const;

function Silent({ control }: PartProps) {
  const { value, onChange } = useController({ control, name: "silent" }).field;
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-semibold">What nobody decides by then is</legend>
      <div className="flex gap-1.5">
        {SILENT.map(([key, words]) => (
          <Chip key={key} on={value === key} onClick={() => onChange(key)}>
            {words}
          </Chip>
        ))}
      </div>
    </fieldset>
  );
}
