// Making a kind of content, or changing its names and where it may stand.
import { useState } from "react";
import { useNavigate } from "react-router";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { TextField } from "../shared/fields";
import { useDuty } from "../shared/session";
import { Button, Chip, ErrorNotice } from "../shared/ui";
import { LikeKind, mostLike } from "./LikeKind";
import { type Kind, useChangeKind, useMakeKind } from "./useKinds";

type EditProps = { kind: Kind | null; all: Kind[]; onClose: () => void };

const NONE: Kind = {
  key: "",
  name: "",
  plural: "",
  tree: "content",
  under: ["section"],
  components: null,
  fields: [],
  retired: false,
  version: 0,
  ships: false,
  pages: 0,
};

export function EditKind({ kind, all, onClose }: EditProps) {
  const was = kind ?? NONE;
  const [name, setName] = useState(was.name);
  const [plural, setPlural] = useState(was.plural);
  const [tree, setTree] = useState(was.tree ?? "content");
  const [under, setUnder] = useState(was.under);
  const [like, setLike] = useState<string | null>();
  const mayGive = useDuty("roles.define");
  const make = useMakeKind();
  const change = useChangeKind(was);
  const navigate = useNavigate();
  const error = make.error ?? change.error;
  const problem = error instanceof ProblemError ? error : null;
  const places = all.filter((one) => one.tree === tree && was.tree !== null);
  const models = all.filter((one) => one.tree === tree && !one.retired);
  const given = !kind && mayGive ? (like === undefined ? mostLike(models, under) : like) : null;
  function save() {
    if (kind) change.mutate({ name, plural, under }, { onSuccess: onClose });
    else
      make.mutate(
        { name, plural, under, tree: tree as "content" | "media", like: given },
        {
          onSuccess: ({ key }) => {
            onClose();
            navigate(`/define/kinds/${key}`);
          },
        },
      );
  }
  return (
    <Dialog open onClose={onClose} title={kind ? `Change ${kind.name}` : "New kind of content"}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save();
        }}
      >
        <TextField label="Name" error={problem?.at("/name")} value={name} max={80} onChange={setName} />
        <TextField
          label="Several of it"
          hint="As it reads in a sentence: berth pages."
          error={problem?.at("/plural")}
          value={plural}
          max={80}
          onChange={setPlural}
        />
        {!kind && (
          <fieldset className="mb-3">
            <legend className="mb-1 text-sm font-semibold">In the tree of</legend>
            <span className="flex gap-1.5">
              {(["content", "media"] as const).map((one) => (
                <Chip
                  key={one}
                  on={tree === one}
                  onClick={() => {
                    setTree(one);
                    setUnder([one === "media" ? "folder" : "section"]);
                  }}
                >
                  {one === "media" ? "Media" : "Pages"}
                </Chip>
              ))}
            </span>
          </fieldset>
        )}
        {places.length > 0 && (
          <fieldset className="mb-3">
            <legend className="mb-1 text-sm font-semibold">Stands under</legend>
            <span className="flex flex-wrap gap-1.5">
              {places.map((one) => (
                <Chip
                  key={one.key}
                  on={under.includes(one.key)}
                  onClick={() =>
                    setUnder(
                      under.includes(one.key) ? under.filter((key) => key !== one.key) : [...under, one.key],
                    )
                  }
                >
                  {one.name}
                </Chip>
              ))}
            </span>
          </fieldset>
        )}
        {!kind && mayGive && <LikeKind kinds={models} like={given} onChoose={setLike} />}
        {problem && !problem.problem.errors?.every((e) => ["/name", "/plural"].includes(e.pointer)) && (
          <ErrorNotice error={problem} />
        )}
        <DialogButtons>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={make.isPending || change.isPending}>
            {kind ? "Save" : "Make it"}
          </Button>
        </DialogButtons>
      </form>
    </Dialog>
  );
}
