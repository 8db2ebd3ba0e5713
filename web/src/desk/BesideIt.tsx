// Of a public page, what one is in: what visitors read, or the working copy beside it that is to become public next.
import { type ReactNode, useState } from "react";
import { useNavigate } from "react-router";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { TextLink } from "../shared/TextLink";
import { when } from "../shared/time";
import { Button, ErrorNotice } from "../shared/ui";
import { type Page, useDiscardCopy, wayTo } from "./useDesk";

type BesideItProps = {
  page: Page;
  beside: Page["beside"] | undefined;
  dirty: boolean;
  looks: boolean;
};

export function BesideIt({ page, beside, dirty, looks }: BesideItProps) {
  if (page.working) return <OnTheCopy page={page} dirty={dirty} looks={looks} />;
  if (!beside || (!beside.begun && !beside.may_edit)) return null;
  const straight = page.may.includes("edit");
  return (
    <Strip>
      <span className="min-w-[240px] flex-1">
        {beside.begun ? (
          <>
            {beside.saved_by ?? "Somebody"} saved a <strong>working copy</strong>{" "}
            {beside.saved_at && when(beside.saved_at)}
            {beside.state === "review" ? ", and handed it in." : "."}{" "}
            {straight && "What you save here is public at once, and not on the copy."}
          </>
        ) : straight ? (
          <>
            This is public: <strong>what you save here is public at once.</strong>
          </>
        ) : (
          "This is public. You can change it on a working copy beside it."
        )}
      </span>
      <TextLink to={wayTo({ id: page.id, working: true }, page.tree)}>
        {beside.begun ? "Open the working copy" : straight ? "Use a working copy instead" : "Work on a copy"}
      </TextLink>
    </Strip>
  );
}

function OnTheCopy({ page, dirty, looks }: Pick<BesideItProps, "page" | "dirty" | "looks">) {
  const [giving, giveUp] = useState(false);
  const discard = useDiscardCopy(page);
  const navigate = useNavigate();
  const away = wayTo({ id: page.id }, page.tree);
  const begun = page.version > 0;
  return (
    <Strip marked>
      <span className="min-w-[240px] flex-1">
        You are on the <strong>working copy</strong>: visitors go on reading what is public.{" "}
        {begun
          ? `Last saved by ${page.saved_by ?? "somebody"}, ${when(page.saved_at)}.`
          : "It begins with what you save first."}
        {page.public_changed && " The public page was changed since it was begun."}
      </span>
      <TextLink to={away}>The public page</TextLink>
      {begun && page.may.includes("edit") && !looks && (
        <Button look="quiet" disabled={dirty} onClick={() => giveUp(true)}>
          Discard…
        </Button>
      )}
      <Dialog
        open={giving}
        onClose={() => giveUp(false)}
        title={`Discard the working copy of ${page.title}?`}
      >
        <p className="text-ink2">
          What was changed on it is lost, with its history. What is public stays as it is.
        </p>
        <ErrorNotice error={discard.error} />
        <DialogButtons>
          <Button onClick={() => giveUp(false)}>Keep it</Button>
          <Button
            look="main"
            disabled={discard.isPending}
            onClick={() => discard.mutate(undefined, { onSuccess: () => navigate(away) })}
          >
            Discard it
          </Button>
        </DialogButtons>
      </Dialog>
    </Strip>
  );
}

function Strip({ marked = false, children }: { marked?: boolean; children: ReactNode }) {
  return (
    <div
      className={`mb-3 flex flex-wrap items-center gap-x-4 gap-y-1 rounded border-l-[3px] px-3 py-1.5 text-sm ${marked ? "border-brass bg-[#fbf3dc]" : "border-line2 bg-linen2"}`}
    >
      {children}
    </div>
  );
}
