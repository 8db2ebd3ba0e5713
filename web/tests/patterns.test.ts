// Named actions on many cells: what each would say.
import { expect, test } from "vitest";
import { wordsOnly } from "../src/define/partLists";
import { asButOwn, asShipped, PATTERNS, sameAs } from "../src/define/patterns";
import type { Cell } from "../src/define/sentence";
import { CATALOGUE, cell } from "./harbour";

function would(name: string, cells: Cell[]): Record<string, string | null> {
  const pattern = PATTERNS.find((one) => one.name === name);
  if (!pattern) throw new Error(`no pattern is called ${name}`);
  return Object.fromEntries(pattern.answers(cells));
}

const REMOVALS = "Take every removal away";

test("a removal that the role gives itself is no longer said", () => {
  expect(would(REMOVALS, [cell("event.remove", "all")])).toEqual({ "event.remove": null });
});

test("a removal that flows in from the role it builds on is withheld", () => {
  expect(would(REMOVALS, [cell("event.remove", null, { says: "team", source: "built-on" })])).toEqual({
    "event.remove": "withheld",
  });
  expect(would(REMOVALS, [cell("event.remove", "all", { says: "own", source: "built-on" })])).toEqual({
    "event.remove": "withheld",
  });
});

test("what nobody gives, what is barred, and what the baseline gives is left", () => {
  const left = [
    cell("event.remove"),
    cell("berth.remove", "barred"),
    cell("picture.remove", null, { says: "own", source: "baseline" }),
  ];
  expect(would(REMOVALS, left)).toEqual({});
});

test("other verbs are left, and what the role builds on withholding takes nothing more", () => {
  expect(
    would(REMOVALS, [
      cell("event.edit", "all"),
      cell("event.remove", null, { says: "withheld", source: "built-on" }),
    ]),
  ).toEqual({});
});

test("publishing is publishing, retiring and editing what is live", () => {
  const cells = ["publish", "retire", "edit-live", "edit", "remove"].map((verb) =>
    cell(`event.${verb}`, "all"),
  );
  expect(Object.keys(would("Take publishing away", cells))).toEqual([
    "event.publish",
    "event.retire",
    "event.edit-live",
  ]);
});

test("own work only narrows what is wider, but for seeing and making", () => {
  const cells = [
    cell("event.edit", "all"),
    cell("event.publish", null, { says: "team", source: "built-on" }),
    cell("event.remove", "own"),
    cell("event.see", "all"),
    cell("event.create", "all"),
    cell("berth.edit", null, { says: "all", source: "baseline" }),
    cell("berth.publish", "barred"),
  ];
  expect(would("Own work only", cells)).toEqual({ "event.edit": "own", "event.publish": "own" });
});

test("saying nothing unsays what is said, and leaves what is not", () => {
  expect(would("Say nothing", [cell("event.edit", "barred"), cell("event.see")])).toEqual({
    "event.edit": null,
  });
});

test("the answers of one kind are said of others, where those differ", () => {
  const cells = new Map(
    [
      cell("event.see", "all"),
      cell("event.edit", "own"),
      cell("event.remove"),
      cell("berth.see", "all"),
      cell("berth.edit"),
      cell("berth.remove", "team"),
      cell("picture.edit", "all"),
    ].map((one) => [one.capability, one]),
  );
  expect(Object.fromEntries(sameAs("event", ["berth", "picture"], cells, CATALOGUE))).toEqual({
    "berth.edit": "own",
    "berth.remove": null,
    "picture.edit": "own",
  });
});

test("as shipped puts back what differs, and unsays what came with nothing", () => {
  const cells = [
    cell("event.edit", "all"),
    cell("event.see", "all"),
    cell("berth.edit", "own"),
    cell("berth.see"),
  ];
  const shipped = { "event.edit": "own", "event.see": "all", "berth.see": "all" };
  expect(Object.fromEntries(asShipped(cells, shipped))).toEqual({
    "event.edit": "own",
    "berth.edit": null,
    "berth.see": "all",
  });
});

test("read only takes every change away and leaves seeing and history", () => {
  const cells = ["see", "see-draft", "history", "create", "edit", "publish"].map((verb) =>
    cell(`event.${verb}`, "all"),
  );
  expect(would("Read only", cells)).toEqual({
    "event.create": null,
    "event.edit": null,
    "event.publish": null,
  });
});

test("everything but publishing gives all else and takes that away", () => {
  const cells = [cell("event.edit", "own"), cell("event.remove"), cell("event.publish", "all")];
  expect(would("Everything but publishing", cells)).toEqual({
    "event.edit": "all",
    "event.remove": "all",
    "event.publish": null,
  });
});

test("as another role, but own only, narrows what it gives and takes what it does not", () => {
  const other = new Map(
    [cell("event.edit", "all"), cell("event.see", "all")].map((one) => [one.capability, one]),
  );
  const mine = [cell("event.edit"), cell("event.see"), cell("event.publish", "all")];
  expect(Object.fromEntries(asButOwn(mine, other))).toEqual({
    "event.edit": "own",
    "event.see": "all",
    "event.publish": null,
  });
});

test("words only leaves of every component its wording", () => {
  const components = [
    { key: "text", facets: ["wording", "links"] },
    { key: "picture", facets: ["media"] },
  ];
  const catalogue = { ...CATALOGUE, components } as unknown as typeof CATALOGUE;
  expect(wordsOnly("tenant", catalogue as never)).toEqual([
    { kind: "set-facets", role: "tenant", component: "text", facets: ["wording"] },
    { kind: "set-facets", role: "tenant", component: "picture", facets: [] },
  ]);
});
