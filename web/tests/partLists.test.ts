// Components and facets: a row or a column of them at once, and what differs between roles.
import { expect, test } from "vitest";
import { linesOf } from "../src/define/CompareBeside";
import { wholeColumn, wholeInsert, wholeRow } from "../src/define/partLists";
import type { Board } from "../src/define/useBoard";
import { CATALOGUE } from "./harbour";

const COMPONENTS = [
  { key: "text", name: "Text", facets: ["wording", "links"] },
  { key: "button", name: "Button", facets: ["wording", "links", "style"] },
  { key: "line", name: "Line", facets: [] },
];
const catalogue = { ...CATALOGUE, components: COMPONENTS } as unknown as typeof CATALOGUE;
const list = (component: string | null, said: string[] | null = null, inherited: string[] | null = null) => ({
  component,
  said,
  inherited,
  inherited_from: null,
  staged: false,
});
const board = (facets: ReturnType<typeof list>[], components = list(null)) =>
  ({ facets, components }) as unknown as Board;
const facets = (component: string, some: string[]) => ({
  kind: "set-facets",
  role: "tenant",
  component,
  facets: some,
});

test("a row gives every side of a component, and where all are given none", () => {
  const all = ["wording", "links"];
  expect(wholeRow("tenant", "text", list("text", ["wording"]), all)).toEqual([facets("text", all)]);
  expect(wholeRow("tenant", "text", list("text"), all)).toEqual([facets("text", [])]);
});

test("a column gives one side of every component that has it, and where all have it of none", () => {
  const some = board([list("text", ["wording"]), list("button", null, ["links", "style"])]);
  expect(wholeColumn("tenant", "links", some, catalogue)).toEqual([facets("text", ["wording", "links"])]);
  const every = board([list("text"), list("button", ["links"])]);
  expect(wholeColumn("tenant", "links", every, catalogue)).toEqual([
    facets("text", ["wording"]),
    facets("button", []),
  ]);
});

test("inserting is given for every component, or where it is for all for none", () => {
  const set = (components: string[]) => [{ kind: "set-components", role: "tenant", components }];
  expect(wholeInsert("tenant", list(null, ["text"]), ["text", "line"])).toEqual(set(["text", "line"]));
  expect(wholeInsert("tenant", list(null), ["text", "line"])).toEqual(set([]));
});

test("beside their boards roles differ in components, facets, fields, places and limits", () => {
  const one = board([list("text", ["wording"]), list("button")], list(null, ["text"]));
  const other = board([list("text"), list("button")]);
  const told = [
    { limits: ["Events: stop edit, only here"], fields_said: null, given: ["Everywhere"] },
    { limits: [], fields_said: ["See dues of all berths"], given: ["Everywhere"] },
  ];
  const lines = Object.fromEntries(linesOf([one, other], told, catalogue));
  expect(lines.Components).toContainEqual({ what: "Insert button", has: [false, true] });
  expect(lines.Facets).toContainEqual({ what: "Change links of text", has: [false, true] });
  expect(lines.Fields).toEqual([{ what: "See dues of all berths", has: [false, true] }]);
  expect(lines.Given).toEqual([{ what: "Everywhere", has: [true, true] }]);
  expect(lines.Limits).toEqual([{ what: "Events: stop edit, only here", has: [true, false] }]);
});
