// A folder of media: its files as a grid, found by words; more come in by dropping, pasting or choosing.
import { type ReactNode, useEffect, useState } from "react";
import { useDropzone } from "react-dropzone";
import { Link } from "react-router";
import { useLooksOnly } from "../../shared/session";
import { count } from "../../shared/time";
import { Button, Chip, Empty, ErrorNotice, INPUT, Loading } from "../../shared/ui";
import { useSettled } from "../../shared/useSettled";
import type { Page } from "../useDesk";
import { useNewKinds } from "../usePlaces";
import { ComingIn } from "./ComingIn";
import { bringIn, LARGEST_FILE } from "./incoming";
import { type FileRow, type Only, pictureAt, useFiles } from "./useFiles";

const ONLY: { only: Only; name: string }[] = [
  { only: "wordless", name: "Without words" },
  { only: "mine", name: "Mine" },
];

export function FolderCanvas({ page }: { page: Page }) {
  const [words, setWords] = useState("");
  const [only, setOnly] = useState<Only>("");
  const files = useFiles(page.id, useSettled(words.trim()), only);
  const rows = files.data?.pages.flatMap(({ rows }) => rows) ?? [];
  const total = files.data?.pages[0]?.total ?? 0;
  const mayBring = useMayBring(page.id);
  return (
    <DropHere folder={page.id} shut={!mayBring}>
      {(choose) => (
        <>
          <div className="mb-3 flex flex-wrap items-center gap-2">
            <input
              aria-label="Words of a title"
              placeholder="Words of a title"
              value={words}
              onChange={(event) => setWords(event.target.value)}
              className={`${INPUT} w-[200px]!`}
            />
            {ONLY.map(({ only: one, name }) => (
              <Chip key={one} on={only === one} onClick={() => setOnly(only === one ? "" : one)}>
                {name}
              </Chip>
            ))}
            <span role="status" className="figures flex-1 text-sm text-ink2">
              {files.data && count(total, "file")}
            </span>
            {mayBring && (
              <Button look="main" onClick={choose}>
                Bring in
              </Button>
            )}
          </div>
          <ErrorNotice error={files.error} again={files.refetch} />
          {files.isPending && <Loading what="the files" />}
          {files.data && rows.length === 0 && (
            <Empty title={words || only ? "No file here is like that" : "No file stands here"}>
              {words || only ? "" : "Folders beneath it are in the tree."}
            </Empty>
          )}
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(130px,1fr))] gap-[18px]">
            {rows.map((row) => (
              <Tile key={row.id} row={row} />
            ))}
          </ul>
          {files.hasNextPage && (
            <Button
              className="mt-4"
              disabled={files.isFetchingNextPage}
              onClick={() => files.fetchNextPage()}
            >
              Show more of {total}
            </Button>
          )}
          <ComingIn />
        </>
      )}
    </DropHere>
  );
}

/** Whether one may make a picture or a document there. */
function useMayBring(folder: string): boolean {
  const looks = useLooksOnly();
  const kinds = useNewKinds(folder).data ?? [];
  return !looks && kinds.some(({ type }) => type === "picture" || type === "document");
}

type DropProps = { folder: string; shut: boolean; children: (choose: () => void) => ReactNode };

/** Takes files that are dropped on it or pasted while it is there; `choose` opens the choice of files. */
function DropHere({ folder, shut, children }: DropProps) {
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    onDrop: (files) => bringIn(folder, files),
    noClick: true,
    noKeyboard: true,
    disabled: shut,
  });
  useEffect(() => {
    if (shut) return;
    const paste = (event: ClipboardEvent) => {
      const files = [...(event.clipboardData?.files ?? [])];
      if (files.length > 0) bringIn(folder, files);
    };
    window.addEventListener("paste", paste);
    return () => window.removeEventListener("paste", paste);
  }, [folder, shut]);
  return (
    <div
      {...getRootProps()}
      className={`rounded-md border bg-paper p-[14px] ${isDragActive ? "border-brass bg-warm" : "border-line"}`}
    >
      <input {...getInputProps()} aria-label="Files to bring in" />
      {children(open)}
      {!shut && (
        <p className="mt-5 rounded-md border border-dashed border-line2 px-4 py-6 text-center text-sm text-ink2">
          Drop files here, or paste a picture. Up to {LARGEST_FILE / 1024 / 1024} MB each; places are taken
          out of photographs.
        </p>
      )}
    </div>
  );
}

function Tile({ row }: { row: FileRow }) {
  const drawn = row.type === "picture" && row.extension !== "";
  return (
    <li>
      <Link
        to={`/desk/${row.id}?tree=media`}
        className="group block rounded-[5px] focus-visible:outline-offset-4"
      >
        <span className="relative grid aspect-[3/2] place-items-center overflow-hidden rounded-[5px] border border-line bg-linen2">
          {drawn ? (
            <img
              src={pictureAt(row.id, row.version, 360)}
              alt=""
              loading="lazy"
              className="size-full object-cover"
            />
          ) : (
            <span className="text-lg font-bold tracking-wide text-ink3 uppercase">
              {row.extension || "no file"}
            </span>
          )}
          {row.wordless && (
            <span className="absolute bottom-1.5 left-1.5 rounded-[3px] bg-[#f6e6c4] px-1.5 text-tiny font-semibold text-ink">
              no words yet
            </span>
          )}
        </span>
        <span className="mt-1.5 block truncate text-read group-hover:underline" title={row.title}>
          {row.title}
        </span>
        <span className="figures block text-xs text-ink2">
          {[row.width > 0 && `${row.width} × ${row.height}`, row.state !== "published" && row.state]
            .filter(Boolean)
            .join(", ")}
        </span>
      </Link>
    </li>
  );
}
