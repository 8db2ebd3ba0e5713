// What the server answers: data, pages of a list, problems.
import { expect, test } from "vitest";
import { answer, answerWithTag, everyPage, ProblemError } from "../src/api/client";

const response = (status: number, headers: Record<string, string> = {}) =>
  new Response(null, { status, headers });

async function problem(asked: Promise<unknown>): Promise<ProblemError> {
  const error = await asked.then(
    () => null,
    (thrown: unknown) => thrown,
  );
  expect(error).toBeInstanceOf(ProblemError);
  return error as ProblemError;
}

test("data is given on, with its tag where that is asked for", async () => {
  const asked = Promise.resolve({ data: [1], response: response(200, { ETag: '"7"' }) });
  expect(await answer(asked)).toEqual([1]);
  expect(await answerWithTag(asked)).toEqual({ data: [1], tag: '"7"' });
});

test("a problem is thrown as the server told it, with a message for each field", async () => {
  const error = {
    status: 422,
    reason: "invalid",
    title: "Some of this cannot be saved",
    detail: "",
    errors: [{ pointer: "/name", message: "A role has this name." }],
  };
  const thrown = await problem(answer(Promise.resolve({ error, response: response(422) })));
  expect(thrown.message).toBe("Some of this cannot be saved");
  expect(thrown.at("/name")).toBe("A role has this name.");
  expect(thrown.at("/description")).toBeUndefined();
});

test("what is no problem in the server's words is told as one", async () => {
  for (const error of ["<h1>Bad gateway</h1>", undefined, { detail: "?" }]) {
    const thrown = await problem(answer(Promise.resolve({ error, response: response(502) })));
    expect([thrown.problem.status, thrown.problem.reason]).toEqual([502, "server"]);
    expect(thrown.message).toBe("The server could not answer. Nothing was changed.");
  }
});

test("every page of a list is asked for, one after the other", async () => {
  const list = [..."abcdefg"];
  const offsets: number[] = [];
  const all = await everyPage(async (offset) => {
    offsets.push(offset);
    return { data: list.slice(offset, offset + 3), response: response(200, { "Total-Count": "7" }) };
  });
  expect([all, offsets]).toEqual([list, [0, 3, 6]]);
});

test("a list that shrinks while it is read ends", async () => {
  const all = await everyPage(async (offset) => ({
    data: offset ? [] : ["a"],
    response: response(200, { "Total-Count": "2" }),
  }));
  expect(all).toEqual(["a"]);
});

test("a list without a count is one page", async () => {
  expect(await everyPage(async () => ({ data: ["a", "b"], response: response(200) }))).toEqual(["a", "b"]);
});
