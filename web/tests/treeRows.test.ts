// A tree as flat rows, and moving through it by keyboard.
import { expect, test } from "vitest";
import { rowsOf, shapeOf, stepped } from "../src/shared/tree/treeRows";
import { walk } from "../src/shared/tree/useTree";

//  home
//  ├─ moorings
//  │  ├─ pier
//  │  │  └─ loft
//  │  └─ fees
//  └─ events
const NODES = [
  { id: "home", parent: null },
  { id: "moorings", parent: "home" },
  { id: "pier", parent: "moorings" },
  { id: "loft", parent: "pier" },
  { id: "fees", parent: "moorings" },
  { id: "events", parent: "home" },
];
const SHAPE = shapeOf(NODES);
const rows = (...open: string[]) => rowsOf(NODES, SHAPE, (id) => open.includes(id));
const ids = (...open: string[]) => rows(...open).map(({ node }) => node.id);

test("what lies beneath something shut is not among the rows", () => {
  expect(ids()).toEqual(["home"]);
  expect(ids("home")).toEqual(["home", "moorings", "events"]);
  expect(ids("home", "pier")).toEqual(["home", "moorings", "events"]);
  expect(ids("home", "moorings", "pier")).toEqual(NODES.map(({ id }) => id));
});

test("rows know how deep they lie, and whether there is something beneath", () => {
  const told = rows("home", "moorings").map(({ node, depth, branch, open }) => [
    node.id,
    depth,
    branch,
    open,
  ]);
  expect(told).toEqual([
    ["home", 0, true, true],
    ["moorings", 1, true, true],
    ["pier", 2, true, false],
    ["fees", 2, false, false],
    ["events", 1, false, false],
  ]);
});

test("up and down stay among the rows", () => {
  const some = rows("home");
  expect(["ArrowDown", "ArrowUp"].map((key) => stepped(some, key, 0))).toEqual([{ to: 1 }, { to: 0 }]);
  expect(["ArrowDown", "ArrowUp"].map((key) => stepped(some, key, 2))).toEqual([{ to: 2 }, { to: 1 }]);
  expect(["Home", "End"].map((key) => stepped(some, key, 1))).toEqual([{ to: 0 }, { to: 2 }]);
});

test("right opens a branch, then goes into it, and does nothing at a leaf", () => {
  expect(stepped(rows("home"), "ArrowRight", 1)).toEqual({ to: 1, turns: { id: "moorings", open: true } });
  expect(stepped(rows("home", "moorings"), "ArrowRight", 1)).toEqual({ to: 2 });
  expect(stepped(rows("home"), "ArrowRight", 2)).toBeNull();
});

test("left shuts a branch, then goes to what is above", () => {
  const some = rows("home", "moorings");
  expect(stepped(some, "ArrowLeft", 1)).toEqual({ to: 1, turns: { id: "moorings", open: false } });
  expect(stepped(some, "ArrowLeft", 3)).toEqual({ to: 1 });
  expect(stepped(rows(), "ArrowLeft", 0)).toEqual({ to: 0 });
});

test("other keys, and rows that are not there, lead nowhere", () => {
  expect(stepped(rows("home"), "x", 0)).toBeNull();
  expect(stepped([], "ArrowDown", 0)).toBeNull();
});

const LISTED = NODES.map(({ id, parent }) => ({ id, parent, title: id, branch: SHAPE.branches.has(id) }));

test("what is needed of a lazy tree is the children of what stands open, as far as that is known", () => {
  const children = (parent: string) => LISTED.filter((node) => (node.parent ?? "") === parent);
  const open = (id: string) => ["home", "moorings"].includes(id);
  const none = walk(() => undefined, open);
  expect([none.rows, none.parents]).toEqual([[], [""]]);
  const part = walk((parent) => (parent === "moorings" ? undefined : children(parent)), open);
  expect(part.rows.map(({ node }) => node.id)).toEqual(["home", "moorings", "events"]);
  expect(part.parents).toEqual(["", "home", "moorings"]);
});
