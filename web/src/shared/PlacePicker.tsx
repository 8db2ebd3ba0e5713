// Choosing a page of one tree by its name, with what is above it beside.
import { useMemo, useState } from "react";
import { Picker } from "./Picker";
import { type TreeName, type TreeNode, useFound, useTitles } from "./tree/nodes";

type PlaceProps = {
  tree: TreeName;
  value: string;
  onPick: (id: string) => void;
  id?: string;
  describedBy?: string;
  /** A page that cannot be chosen, with all beneath it. */
  but?: string;
  /** The only kind of node that can be chosen. */
  only?: string;
  /** The name of what is chosen, where it is known. */
  name?: string;
  what?: string;
  disabled?: boolean;
  /** Offers to choose nothing, under this name. */
  none?: string;
};

export function PlacePicker({ tree, but, only, name, what = "page", ...field }: PlaceProps) {
  const [words, setWords] = useState("");
  const found = useFound(tree, words, { type: only });
  const choices = useMemo(() => choicesOf(found.data ?? [], but), [found.data, but]);
  const titles = useTitles(field.value && !name ? [field.value] : []);
  return (
    <Picker
      what={what}
      choices={choices}
      onSearch={setWords}
      looking={found.isFetching}
      chosenName={name ?? titles.get(field.value ?? "")}
      {...field}
    />
  );
}

function choicesOf(nodes: TreeNode[], but?: string) {
  const titles = new Map(nodes.map(({ id, title }) => [id, title]));
  const left = new Set(but ? [but] : []);
  for (const { id, parent } of nodes) if (parent && left.has(parent)) left.add(id);
  return nodes
    .filter(({ id, found, context }) => found && !context && !left.has(id))
    .map(({ id, title, parent }) => ({ key: id, name: title, note: titles.get(parent ?? "") }));
}
