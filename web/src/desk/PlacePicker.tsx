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
  /** The only kind of node that can be chosen. */
  only?: string;
  /** Offers to choose nothing, under this name. */
  none?: string;
};

export function PlacePicker({ tree, but, only, ...field }: PlaceProps) {
  const nodes = useDeskTree(tree).data;
  const choices = useMemo(() => choicesOf(nodes ?? [], but, only), [nodes, but, only]);
  return <Picker what="page" choices={choices} {...field} />;
}

function choicesOf(nodes: TreeNode[], but?: string, only?: string) {
  const titles = new Map(nodes.map(({ id, title }) => [id, title]));
  const left = new Set(but ? [but] : []);
  for (const { id, parent } of nodes) if (parent && left.has(parent)) left.add(id);
  return nodes
    .filter(({ id, type, context }) => !context && !left.has(id) && (!only || type === only))
    .map(({ id, title, parent }) => ({ key: id, name: title, note: titles.get(parent ?? "") }));
}
