// Choosing a picture among those one may see: by words or folder, or one that is brought in for it.
import { type ReactNode, useState } from "react";
import { useDropzone } from "react-dropzone";
import { Dialog, DialogButtons } from "../../shared/Dialog";
import { PlacePicker } from "../../shared/PlacePicker";
import { type TreeNode, useFound, useTitles } from "../../shared/tree/nodes";
import { Button, Empty, ErrorNotice, INPUT, Labelled, Loading } from "../../shared/ui";
import { useOffers } from "../../shared/useOffers";
import { ComingIn } from "./ComingIn";
import { bringIn } from "./incoming";
import { pictureAt } from "./useFiles";

type PickerProps = { id: string; value: string; readOnly: boolean; onChange: (value: string) => void };

export function PicturePicker({ id, value, readOnly, onChange }: PickerProps) {
  const [open, setOpen] = useState(false);
  const title = useTitles(value ? [value] : []).get(value);
  function choose(picture: string) {
    onChange(picture);
    setOpen(false);
  }
  return (
    <>
      <button
        type="button"
        id={id}
        aria-labelledby={`${id}-label ${id}-chosen`}
        disabled={readOnly}
        onClick={() => setOpen(true)}
        className={`${INPUT} flex items-center gap-2 text-left`}
      >
        {value && (
          <img
            src={pictureAt(value, 0, 360)}
            alt=""
            className="h-[26px] w-[39px] rounded-[2px] object-cover"
          />
        )}
        <span id={`${id}-chosen`} className={`min-w-0 flex-1 truncate ${value ? "" : "text-ink2"}`}>
          {value ? (title ?? "A picture out of sight") : "No picture"}
        </span>
      </button>
      <PictureDialog open={open} onClose={() => setOpen(false)} value={value} onChoose={choose} />
    </>
  );
}

type DialogProps = {
  open: boolean;
  onClose: () => void;
  value: string;
  onChoose: (picture: string) => void;
};

export function PictureDialog({ open, onClose, value, onChoose }: DialogProps) {
  return (
    <Dialog open={open} onClose={onClose} title="Choose a picture" size="wide">
      {open && <Choice value={value} onChoose={onChoose} />}
      <DialogButtons>
        <Button onClick={() => onChoose("")}>No picture</Button>
      </DialogButtons>
    </Dialog>
  );
}

function Choice({ value, onChoose }: { value: string; onChoose: (picture: string) => void }) {
  const [words, setWords] = useState("");
  const [folder, setFolder] = useState("");
  const found = useFound("media", words, { type: "picture", under: folder ? [folder] : undefined });
  const rows = found.data ?? [];
  const titles = new Map(rows.map(({ id, title }) => [id, title]));
  const pictures = rows.filter((row) => row.found && !row.context);
  return (
    <DropFor folder={folder}>
      <div className="grid grid-cols-2 gap-3">
        <Labelled label="Words of a title">
          {(id) => (
            <input
              id={id}
              value={words}
              onChange={(event) => setWords(event.target.value)}
              className={INPUT}
            />
          )}
        </Labelled>
        <Labelled label="In the folder">
          {(id) => (
            <PlacePicker
              id={id}
              tree="media"
              only="folder"
              what="folder"
              none="Any folder"
              value={folder}
              onPick={setFolder}
            />
          )}
        </Labelled>
      </div>
      <ErrorNotice error={found.error} again={found.refetch} />
      {found.isPending && <Loading what="the pictures" />}
      {found.data && pictures.length === 0 && <Empty title="No picture is called that" />}
      <ul
        aria-label="Pictures"
        className="grid max-h-[330px] grid-cols-[repeat(auto-fill,minmax(130px,1fr))] gap-3 overflow-y-auto p-1"
      >
        {pictures.map((row) => (
          <Picture
            key={row.id}
            row={row}
            above={titles.get(row.parent ?? "") ?? ""}
            chosen={row.id === value}
            onChoose={() => onChoose(row.id)}
          />
        ))}
      </ul>
    </DropFor>
  );
}

type PictureProps = { row: TreeNode; above: string; chosen: boolean; onChoose: () => void };

function Picture({ row, above, chosen, onChoose }: PictureProps) {
  return (
    <li>
      <button type="button" aria-pressed={chosen} onClick={onChoose} className="block w-full text-left">
        <img
          src={pictureAt(row.id, 0, 360)}
          alt=""
          loading="lazy"
          className={`aspect-[3/2] w-full rounded-[4px] border object-cover ${
            chosen ? "border-rod outline-2 outline-offset-1 outline-rod" : "border-line"
          }`}
        />
        <span className="mt-1 block truncate text-sm font-semibold">{row.title}</span>
        <span className="block truncate text-xs text-ink2">{above}</span>
      </button>
    </li>
  );
}

/** Brings files in to the folder that is looked at, or to the first in which one may make something. */
function DropFor({ folder, children }: { folder: string; children: ReactNode }) {
  const first = useOffers().data?.make_under.media ?? "";
  const to = folder || first;
  const name = useTitles(to ? [to] : []).get(to);
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    onDrop: (files) => bringIn(to, files),
    noClick: true,
    noKeyboard: true,
    disabled: !to,
  });
  return (
    <div {...getRootProps()} className={isDragActive ? "rounded bg-warm" : ""}>
      <input {...getInputProps()} aria-label="Pictures to bring in" />
      {children}
      {to && (
        <p className="mt-3 flex items-center gap-3 text-sm text-ink2">
          <Button onClick={open}>Bring one in</Button>
          <span className="min-w-0 truncate">or drop it here: it comes into {name ?? "…"}, as a draft.</span>
        </p>
      )}
      <ComingIn />
    </div>
  );
}
