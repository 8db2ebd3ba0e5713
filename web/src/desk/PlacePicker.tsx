// Choosing a page of one tree by its name, with what is above it beside.
import { useMemo } from "react";
import { Picker } from "../shared/Picker";
import { type TreeName, type TreeNode, useDeskTree } from "./useDesk";

type PlaceProps = {
  tree: TreeName;
  value: string;
  onPick: (id: string) => void;
  id?: string;
  describedBy?: string;
  /** A page that cannot be chosen, with all beneath it. */
  but?: string;
};

export function PlacePicker({ tree, but, ...field }: PlaceProps) {
  const nodes = useDeskTree(tree).data;
  const choices = useMemo(() => choicesOf(nodes ?? [], but), [nodes, but]);
  return <Picker what="page" choices={choices} {...field} />;
}

function choicesOf(nodes: TreeNode[], but?: string) {
  const titles = new Map(nodes.map(({ id, title }) => [id, title]));
  const left = new Set(but ? [but] : []);
  for (const { id, parent } of nodes) if (parent && left.has(parent)) left.add(id);
  return nodes
    .filter(({ id, context }) => !context && !left.has(id))
    .map(({ id, title, parent }) => ({ key: id, name: title, note: titles.get(parent ?? "") }));
}
