// @vitest-environment jsdom
// People on the desk: what is typed is saved on top of what it was typed over.
import { act, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import { sentTo, serve, session, show } from "./serving";

const { PeoplePlace } = await import("../src/desk/PeoplePlace");
const { keys } = await import("../src/shared/keys");

const INES = "/api/desk/people/ines";

function profile(tag: string, value: string) {
  const work = {
    key: "work",
    name: "Work",
    kind: "text",
    choices: [],
    value,
    may_change: true,
    asked: false,
  };
  return () => ({ tag, body: { id: "ines", name: "Ines Marrow", portrait: null, profile: [work] } });
}

it("is saved on top of what it was typed over, though the profile is read again meanwhile", async () => {
  serve({
    "GET /api/session": session(),
    "GET /api/desk/people": [],
    [`GET ${INES}`]: profile('"1"', "Rope"),
  });
  const { queryClient } = await show(<PeoplePlace />, "/?person=ines");
  await userEvent.type(await screen.findByLabelText("Work"), "s");
  serve({ [`GET ${INES}`]: profile('"2"', "Theirs") });
  await act(() => queryClient.refetchQueries({ queryKey: keys.profile("ines") }));
  expect(screen.getByLabelText("Work")).toHaveProperty("value", "Ropes");
  serve({ [`PATCH ${INES}`]: profile('"3"', "Ropes") });
  await userEvent.click(screen.getByRole("button", { name: "Save" }));
  await waitFor(() => expect(sentTo("PATCH", INES)).toHaveLength(1));
  expect(sentTo("PATCH", INES)[0]?.headers.get("If-Match")).toBe('"1"');
  expect(sentTo("PATCH", INES)[0]?.body).toEqual({ profile: { work: "Ropes" } });
});
