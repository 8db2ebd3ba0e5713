// Named actions on many cells: what each would say.
import { expect, test } from "vitest";
import { asShipped, PATTERNS, sameAs } from "../src/define/patterns";
import type { Cell } from "../src/define/sentence";
import { CATALOGUE, cell } from "./harbour";

function would(name: string, cells: Cell[]): Record<string, string | null> {
  const pattern = PATTERNS.find((one) => one.name === name);
  if (!pattern) throw new Error(`no pattern is called ${name}`);
  return Object.fromEntries(pattern.say(cells));
}

const REMOVALS = "Take every removal away";

test("a removal that the role gives itself is no longer said", () => {
  expect(would(REMOVALS, [cell("event.remove", { said: "all" })])).toEqual({ "event.remove": null });
});

test("a removal that flows in from the role it builds on is withheld", () => {
  expect(would(REMOVALS, [cell("event.remove", { inherited: "team" })])).toEqual({
    "event.remove": "withheld",
  });
  expect(would(REMOVALS, [cell("event.remove", { said: "all", inherited: "own" })])).toEqual({
    "event.remove": "withheld",
  });
});

test("what nobody gives, what is barred, and what the baseline gives is left", () => {
  const left = [
    cell("event.remove"),
    cell("berth.remove", { said: "barred" }),
    cell("picture.remove", { baseline: "own" }),
  ];
  expect(would(REMOVALS, left)).toEqual({});
});

test("other verbs are left, and what the role builds on withholding takes nothing more", () => {
  expect(
    would(REMOVALS, [cell("event.edit", { said: "all" }), cell("event.remove", { inherited: "withheld" })]),
  ).toEqual({});
});

test("publishing is publishing, retiring and editing what is live", () => {
  const cells = ["publish", "retire", "edit-live", "edit", "remove"].map((verb) =>
    cell(`event.${verb}`, { said: "all" }),
  );
  expect(Object.keys(would("Take publishing away", cells))).toEqual([
    "event.publish",
    "event.retire",
    "event.edit-live",
  ]);
});

test("own work only narrows what is wider, but for seeing and making", () => {
  const cells = [
    cell("event.edit", { said: "all" }),
    cell("event.publish", { inherited: "team" }),
    cell("event.remove", { said: "own" }),
    cell("event.see", { said: "all" }),
    cell("event.create", { said: "yes" }),
    cell("berth.edit", { baseline: "all" }),
    cell("berth.publish", { said: "barred" }),
  ];
  expect(would("Own work only", cells)).toEqual({ "event.edit": "own", "event.publish": "own" });
});

test("saying nothing unsays what is said, and leaves what is not", () => {
  expect(would("Say nothing", [cell("event.edit", { said: "barred" }), cell("event.see")])).toEqual({
    "event.edit": null,
  });
});

test("the answers of one kind are said of others, where those differ", () => {
  const cells = new Map(
    [
      cell("event.see", { said: "all" }),
      cell("event.edit", { said: "own" }),
      cell("event.remove"),
      cell("berth.see", { said: "all" }),
      cell("berth.edit"),
      cell("berth.remove", { said: "team" }),
      cell("picture.edit", { said: "all" }),
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
    cell("event.edit", { said: "all" }),
    cell("event.see", { said: "all" }),
    cell("berth.edit", { said: "own" }),
    cell("berth.see"),
  ];
  const shipped = { "event.edit": "own", "event.see": "all", "berth.see": "all" };
  expect(Object.fromEntries(asShipped(cells, shipped))).toEqual({
    "event.edit": "own",
    "berth.edit": null,
    "berth.see": "all",
  });
});
