// A picture or document: itself, how large it is, what uses it; another file can take its place.
import { useRef, useState } from "react";
import { useLooksOnly } from "../../shared/session";
import { TextLink } from "../../shared/TextLink";
import { Button, ErrorNotice, Loading } from "../../shared/ui";
import type { Page } from "../useDesk";
import { size } from "./ComingIn";
import { words } from "./incoming";
import { pictureAt, useFile, useReplace } from "./useFiles";

export function FileCanvas({ page }: { page: Page }) {
  const file = useFile(page.id);
  const alt = page.fields.find((field) => field.key === "alt")?.value;
  if (file.error) return <ErrorNotice error={file.error} again={file.refetch} />;
  if (!file.data) return <Loading what="the file" />;
  const { extension, bytes, width, height } = file.data;
  return (
    <div className="rounded-md border border-line bg-paper p-[14px]">
      {page.type === "picture" && extension && (
        <img
          src={pictureAt(page.id, page.version, 800)}
          alt={String(alt ?? "")}
          className="max-h-[440px] w-full rounded-sm object-contain"
        />
      )}
      {!extension && <p className="p-3 text-sm text-ink2">It has no file yet.</p>}
      <div className="mt-3 flex flex-wrap items-center gap-3">
        <p className="figures flex-1 text-sm text-ink2">
          {[extension.toUpperCase(), width > 0 && `${width} × ${height}`, bytes > 0 && size(bytes)]
            .filter(Boolean)
            .join(", ")}
        </p>
        {extension && (
          <a className="text-sm underline" href={`/files/${page.id}`}>
            {page.type === "picture" ? "Open it" : "Download it"}
          </a>
        )}
        <Replace page={page} />
      </div>
      <UsedOn uses={file.data} />
    </div>
  );
}

type Uses = { used_on: { id: string; title: string }[]; used_out_of_sight: boolean };

function UsedOn({ uses }: { uses: Uses }) {
  const none = uses.used_on.length === 0 && !uses.used_out_of_sight;
  return (
    <section aria-labelledby="used-on" className="mt-4 border-t border-line pt-3">
      <h2 id="used-on" className="text-lead font-semibold">
        Used on
      </h2>
      {none && <p className="text-sm text-ink2">No page uses it.</p>}
      <ul className="text-sm">
        {uses.used_on.map(({ id, title }) => (
          <li key={id} className="py-0.5">
            <TextLink to={`/desk/${id}`}>{title}</TextLink>
          </li>
        ))}
        {uses.used_out_of_sight && <li className="py-0.5 text-ink2">a page out of sight</li>}
      </ul>
    </section>
  );
}

function Replace({ page }: { page: Page }) {
  const looks = useLooksOnly();
  const input = useRef<HTMLInputElement>(null);
  const [sent, setSent] = useState(0);
  const replace = useReplace(page, setSent);
  if (looks || !page.may.includes("edit")) return null;
  return (
    <>
      <input
        ref={input}
        type="file"
        aria-label="The file to take its place"
        className="hidden"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) replace.mutate(file);
        }}
      />
      <Button disabled={replace.isPending} onClick={() => input.current?.click()}>
        {replace.isPending ? `${Math.round(sent * 100)} %` : "Replace"}
      </Button>
      <span role="status" className="sr-only">
        {replace.isSuccess ? "Another file took its place." : ""}
      </span>
      {replace.error && (
        <p role="alert" className="w-full text-sm text-bar">
          {words(replace.error)}
        </p>
      )}
    </>
  );
}
