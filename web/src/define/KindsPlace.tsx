// Kinds of content: what there is, and of the chosen one its names, its fields and what its pages are built of.
import { useState } from "react";
import { Link, useParams } from "react-router";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { useDuty } from "../shared/session";
import { TextLink } from "../shared/TextLink";
import { count } from "../shared/time";
import { Button, Chip, Empty, ErrorNotice, Loading, Tag } from "../shared/ui";
import { useOpenHere } from "../shared/useOpenHere";
import { useCatalogue } from "../shared/useRoles";
import { EditKind } from "./EditKind";
import { KindFields } from "./KindFields";
import { type Kind, useChangeKind, useKinds } from "./useKinds";

export function KindsPlace() {
  const kinds = useKinds();
  const [making, setMaking] = useOpenHere("new kind");
  const may = useDuty("kinds.define");
  const chosen = useParams().kind ?? kinds.data?.[0]?.key;
  const kind = kinds.data?.find(({ key }) => key === chosen);
  return (
    <>
      <nav
        aria-label="Kinds"
        className="w-[236px] shrink-0 overflow-y-auto border-r border-line bg-linen2 pt-[24px] pb-6"
      >
        <div className="mb-2 flex items-center px-4">
          <h2 className="flex-1">Kinds</h2>
          {may && <Button onClick={() => setMaking(true)}>New kind</Button>}
        </div>
        {kinds.data?.map((one) => (
          <Link
            key={one.key}
            to={`/define/kinds/${one.key}`}
            aria-current={one.key === chosen ? "page" : undefined}
            className={`block border-l-4 px-3 py-2 ${one.key === chosen ? "border-brass bg-paper" : "border-transparent hover:bg-linen"}`}
          >
            <span className={one.key === chosen ? "font-semibold" : ""}>{one.name}</span>
            <span className="block text-xs text-ink2">
              {one.ships ? "ships with the site" : "yours"}
              {one.retired ? ", retired" : ""}
              {one.tree ? `, ${count(one.pages, one.tree === "media" ? "file" : "page")}` : ""}
            </span>
          </Link>
        ))}
      </nav>
      {kinds.error && <ErrorNotice error={kinds.error} again={kinds.refetch} />}
      {kinds.isPending && <Loading what="the kinds" />}
      {kinds.data && !kind && <Empty heading title="There is no such kind" />}
      {kind && <OneKind key={kind.key} kind={kind} all={kinds.data ?? []} may={may} />}
      {making && <EditKind kind={null} all={kinds.data ?? []} onClose={() => setMaking(false)} />}
    </>
  );
}

function OneKind({ kind, all, may }: { kind: Kind; all: Kind[]; may: boolean }) {
  const [editing, edit] = useState(false);
  const names = new Map(all.map(({ key, name }) => [key, name]));
  const under = kind.under.map((key) => names.get(key) ?? key).join(", ");
  return (
    <section aria-label={kind.name} className="min-w-0 flex-1 overflow-y-auto px-[28px] pt-[24px] pb-10">
      <header className="flex flex-wrap items-center gap-2.5">
        <h1>{kind.name}</h1>
        <Tag>{kind.plural}</Tag>
        {kind.tree && <Tag>{kind.tree}</Tag>}
        {kind.retired && <Tag>retired</Tag>}
        <span className="text-xs text-ink2">{under ? `stands under ${under}` : ""}</span>
        <span className="flex-1" />
        {may && <RetireKind kind={kind} />}
        {may && <Button onClick={() => edit(true)}>Change</Button>}
      </header>
      {kind.tree && (
        <p className="mt-1 text-xs text-ink2">
          What can be done with it stands on every board.{" "}
          <TextLink to={`/define/capability?cell=${kind.key}.edit`}>Who may edit {kind.plural}</TextLink>
        </p>
      )}
      <KindFields kind={kind} may={may} />
      {kind.tree === "content" && <BuiltOf kind={kind} may={may} />}
      {editing && <EditKind kind={kind} all={all} onClose={() => edit(false)} />}
    </section>
  );
}

/** Kinds that every site or account needs. */
const NEEDED = ["home", "folder", "account"];

function RetireKind({ kind }: { kind: Kind }) {
  const [asking, ask] = useState(false);
  const change = useChangeKind(kind);
  if (NEEDED.includes(kind.key)) return null;
  if (kind.retired)
    return (
      <>
        <Button disabled={change.isPending} onClick={() => change.mutate({ retired: false })}>
          Bring back
        </Button>
        <ErrorNotice error={change.error} />
      </>
    );
  return (
    <>
      <Button look="quiet" onClick={() => ask(true)}>
        Retire…
      </Button>
      <Dialog open={asking} onClose={() => ask(false)} title={`Retire ${kind.plural}?`}>
        <p>
          Nothing new is made of them; what there is{kind.pages > 0 && ` (${count(kind.pages, "page")})`} is
          edited and read as before. What roles say of them is kept, and the kind can be brought back.
        </p>
        <ErrorNotice error={change.error} />
        <DialogButtons>
          <Button onClick={() => ask(false)}>Keep it</Button>
          <Button
            look="main"
            disabled={change.isPending}
            onClick={() => change.mutate({ retired: true }, { onSuccess: () => ask(false) })}
          >
            Retire it
          </Button>
        </DialogButtons>
      </Dialog>
    </>
  );
}

/** The components its pages may be built of; nothing said means any. */
function BuiltOf({ kind, may }: { kind: Kind; may: boolean }) {
  const components = useCatalogue().data?.components ?? [];
  const change = useChangeKind(kind);
  const all = components.map(({ key }) => key);
  const on = kind.components ?? all;
  function toggle(key: string) {
    const next = all.filter((one) => (one === key ? !on.includes(key) : on.includes(one)));
    change.mutate({ components: next.length === all.length ? null : next });
  }
  return (
    <>
      <h2 className="mt-6 mb-2">Its pages are built of</h2>
      <div className="flex flex-wrap gap-1.5">
        {components.map(({ key, name }) => (
          <Chip
            key={key}
            on={on.includes(key)}
            disabled={!may || change.isPending}
            onClick={() => toggle(key)}
          >
            {name}
          </Chip>
        ))}
      </div>
      <p className="mt-1.5 text-xs text-ink2">What stands on pages already stays there.</p>
      <ErrorNotice error={change.error} />
    </>
  );
}
