// @vitest-environment jsdom
// Publishing several pages: those that nobody would see are left out, and published when that is meant.
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it } from "vitest";
import { sentTo, serve, session, show } from "./serving";

const { Several } = await import("../src/desk/Several");

const DETAIL = "Once it is public nobody would see it here.";

function told(...unseen: string[]) {
  const pages = ["knot", "hitch", "gala"].map((id) => ({
    id,
    title: id,
    done: !unseen.includes(id),
    why: unseen.includes(id) ? DETAIL : "",
    unseen: unseen.includes(id),
  }));
  return { body: { done: pages.filter(({ done }) => done).length, pages } };
}

async function publish(together: boolean) {
  serve({
    "GET /api/session": session(),
    "POST /api/desk/many": (body: unknown) =>
      told(...((body as { although_unseen: boolean }).although_unseen ? [] : ["knot", "hitch"])),
  });
  await show(<Several chosen={["knot", "hitch", "gala"]} tree="content" onDone={() => undefined} />);
  await userEvent.click(screen.getByRole("button", { name: "Do…" }));
  await userEvent.click(await screen.findByRole("menuitem", { name: "Publish" }));
  if (together) await userEvent.click(screen.getByRole("checkbox", { name: "Only if all of them can be" }));
  await userEvent.click(screen.getByRole("button", { name: "Publish them" }));
}

it("publishes those that were left out all the same", async () => {
  await publish(false);
  expect(await screen.findAllByText(DETAIL)).toHaveLength(2);
  await userEvent.click(screen.getByRole("button", { name: "Publish 2 pages all the same" }));
  expect(await screen.findByText(/Done with 3 pages/)).toBeTruthy();
  expect(sentTo("POST", "/api/desk/many").at(-1)?.body).toMatchObject({ nodes: ["knot", "hitch"] });
  expect(screen.queryByRole("button", { name: /all the same/ })).toBeNull();
});

it("publishes all of them where none was to go alone", async () => {
  await publish(true);
  await userEvent.click(await screen.findByRole("button", { name: "Publish them all the same" }));
  expect(await screen.findByText(/Done with 3 pages/)).toBeTruthy();
  expect(sentTo("POST", "/api/desk/many").at(-1)?.body).toMatchObject({
    nodes: ["knot", "hitch", "gala"],
    together: true,
  });
});
