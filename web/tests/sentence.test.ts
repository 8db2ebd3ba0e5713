// What a cell says in words, and what counts in it.
import { describe, expect, it, test } from "vitest";
import { choices } from "../src/define/choices";
import { becomes, effective, plain, saidBy, sentence } from "../src/define/sentence";
import { headOf } from "../src/shared/capability";
import { CATALOGUE, cell, role } from "./harbour";

const says = (capability: string, said: string | null, who = role()) =>
  plain(sentence(who, cell(capability, said), CATALOGUE));

test.each([
  ["event.edit", "own", "Holders of Tenant editor may edit events they wrote themselves."],
  ["event.edit", "team", "Holders of Tenant editor may edit events written by anyone in their team."],
  ["event.edit", "all", "Holders of Tenant editor may edit all events."],
  ["event.create", "own", "Holders of Tenant editor may create events."],
  ["locks.open", "yes", "Holders of Tenant editor may open locks."],
  ["event.edit", null, "Holders of Tenant editor may not edit events by this role."],
  ["locks.open", null, "Holders of Tenant editor may not open locks by this role."],
  ["event.edit", "barred", "Holders of Tenant editor may never edit events, whatever else they hold."],
  ["event.edit", "withheld", "Holders of Tenant editor are not given “edit events” by this role."],
])("%s, %s", (capability, said, words) => {
  expect(says(capability, said)).toBe(words);
});

test.each([
  ["all", "Holders of Tenant editor may see all unpublished events."],
  ["own", "Holders of Tenant editor may see unpublished events they wrote themselves."],
  [null, "Holders of Tenant editor may not see unpublished events by this role."],
])("unpublished, %s", (said, words) => {
  const unpublished = {
    key: "see-draft",
    name: "See unpub.",
    phrase: "see unpublished",
    which: "unpublished",
  };
  const catalogue = { ...CATALOGUE, verbs: [...CATALOGUE.verbs, unpublished] };
  expect(plain(sentence(role(), cell("event.see-draft", said), catalogue))).toBe(words);
});

test("the baseline is named for whom it is", () => {
  expect(says("event.see", "all", role({ subject: "Everyone, visitors too," }))).toBe(
    "Everyone, visitors too, may see all events.",
  );
});

test("what an answer decides is stressed", () => {
  expect(sentence(role(), cell("event.edit", "all"), CATALOGUE).stress).toBe("all events");
  expect(sentence(role(), cell("event.edit"), CATALOGUE).stress).toBe("not");
});

test("what is not in the catalogue is called by its key", () => {
  expect(says("tide.measure", "all")).toBe("Holders of Tenant editor may measure all tide.");
});

test("heads name the kind and the verb, or the area and the duty", () => {
  expect(headOf("berth.publish", CATALOGUE)).toBe("Berth page · Publish");
  expect(headOf("roster.see", CATALOGUE)).toBe("Duties · See the roster");
});

test("what counts is what the server says it comes to, for each word", () => {
  const flowing = cell("event.edit", null, { says: "team", source: "baseline" });
  expect(effective(flowing)).toMatchObject({ says: "team", source: "baseline", given: true });
  expect(becomes(flowing, "barred")).toMatchObject({ says: "barred", source: "own", given: false });
  expect(plain(sentence(role(), flowing, CATALOGUE))).toMatch(/edit events written by anyone in their team/);
  expect(() => becomes(flowing, "yes")).toThrow("event.edit cannot say yes");
});

const GRADED = cell("event.edit");
const DUTY = cell("locks.open");

describe("keys", () => {
  it("say an extent of what is graded, and yes of a duty", () => {
    expect(["o", "t", "a", "y"].map((key) => saidBy(key, GRADED))).toEqual(["own", "team", "all", undefined]);
    expect(["o", "t", "a", "y"].map((key) => saidBy(key, DUTY))).toEqual([
      undefined,
      undefined,
      undefined,
      "yes",
    ]);
  });
  it("withhold, bar and unsay either", () => {
    for (const either of [GRADED, DUTY]) {
      expect(["w", "b", "Delete", "Backspace", "x"].map((key) => saidBy(key, either))).toEqual([
        "withheld",
        "barred",
        null,
        null,
        undefined,
      ]);
    }
  });
  it("are those the choices of a cell name", () => {
    for (const capability of ["event.edit", "locks.open"]) {
      for (const choice of choices(cell(capability))) {
        expect(saidBy(choice.key, cell(capability))).toBe(choice.says);
      }
    }
  });
});
