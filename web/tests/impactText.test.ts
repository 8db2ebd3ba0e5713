// What changes for whom, in words.
import { expect, test } from "vitest";
import {
  changeWords,
  gainWords,
  loseWords,
  type Total,
  touchedWords,
  touchesNobody,
  wholeAndParts,
} from "../src/shared/changes/impactText";

function total(said: Partial<Total> = {}): Total {
  return {
    key: "edit",
    words: "edit pages",
    gain: 0,
    lose: 0,
    visitors_gain: false,
    visitors_lose: false,
    most_gained: 0,
    most_lost: 0,
    places: true,
    pages: true,
    ...said,
  };
}

test.each([
  [{ gain: 11, most_gained: 12 }, "11 accounts may now edit pages, up to 12 each"],
  [{ gain: 11, most_gained: 1 }, "11 accounts may now edit pages, one each"],
  [{ gain: 1, most_gained: 3 }, "1 account may now edit pages: 3"],
  [{ lose: 2, most_lost: 4 }, "2 accounts may no longer edit pages, up to 4 each"],
  [
    { gain: 1, most_gained: 2, lose: 3, most_lost: 1 },
    "1 account may now edit pages: 2; 3 accounts may no longer edit pages, one each",
  ],
  [{ gain: 5, most_gained: 1, places: false }, "5 accounts may now edit pages"],
])("%o", (said, words) => {
  expect(changeWords(total(said))).toBe(words);
});

test("visitors are no account", () => {
  expect(changeWords(total({ lose: 77, visitors_lose: true, most_lost: 9 }))).toBe(
    "77 accounts and visitors may no longer edit pages, up to 9 each",
  );
  expect(changeWords(total({ lose: 1, visitors_lose: true, most_lost: 9 }))).toBe(
    "1 account and visitors may no longer edit pages, up to 9 each",
  );
  expect(changeWords(total({ visitors_gain: true, most_gained: 9 }))).toBe(
    "visitors may now edit pages, up to 9 each",
  );
});

test("who gains and who loses is told either way", () => {
  const some = total({ gain: 1, lose: 4, visitors_lose: true });
  expect(gainWords(some)).toBe("1 account gains");
  expect(loseWords(some)).toBe("4 accounts and visitors lose");
  expect([gainWords(total()), loseWords(total())]).toEqual(["nobody gains", "nobody loses"]);
});

test("where there is no room for nobody, only those touched are told", () => {
  expect(touchedWords(total({ gain: 2 }))).toBe("2 accounts gain");
  expect(touchedWords(total({ gain: 2, visitors_lose: true }))).toBe("2 accounts gain, visitors lose");
  expect(touchedWords(total())).toBe("");
});

test("nobody is touched where neither accounts nor visitors are", () => {
  expect(touchesNobody(total())).toBe(true);
  for (const said of [{ gain: 1 }, { lose: 1 }, { visitors_gain: true }, { visitors_lose: true }]) {
    expect(touchesNobody(total(said))).toBe(false);
  }
});

test("parts of pages stand apart from whole pages and duties", () => {
  const keys = ["edit", "see-field berth.dues", "locks.open", "insert-component table", "create:event"];
  const [whole, parts] = wholeAndParts(keys.map((key) => ({ key })));
  expect(whole.map(({ key }) => key)).toEqual(["edit", "locks.open", "create:event"]);
  expect(parts.map(({ key }) => key)).toEqual(["see-field berth.dues", "insert-component table"]);
});
