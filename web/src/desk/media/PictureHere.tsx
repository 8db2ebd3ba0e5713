// A picture where it stands on the page: another is dropped on it, or chosen.
import { useMutation } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { useDropzone } from "react-dropzone";
import { keys } from "../../shared/keys";
import { queryClient } from "../../shared/query";
import { useOffers } from "../../shared/useOffers";
import { words } from "./incoming";
import { PictureDialog } from "./PicturePicker";
import { sendFile } from "./upload";

const PICTURES = { "image/jpeg": [], "image/png": [], "image/webp": [] };

type HereProps = { value: string; onChange: (picture: string) => void; children: ReactNode };

export function PictureHere({ value, onChange, children }: HereProps) {
  const [open, setOpen] = useState(false);
  const [sent, setSent] = useState(0);
  const [other, setOther] = useState(false);
  const folder = useOffers().data?.make_under.media ?? "";
  const bring = useMutation({
    mutationFn: (file: File) => {
      const data = new FormData();
      data.set("folder", folder);
      data.set("file", file);
      return sendFile("/api/desk/media", { data, onSent: setSent });
    },
    onSuccess: (page) => {
      for (const queryKey of [keys.files, keys.deskTrees]) queryClient.invalidateQueries({ queryKey });
      onChange(page.id);
    },
  });
  const { getRootProps, getInputProps, isDragActive } = useDropzone({
    accept: PICTURES,
    onDrop: ([file]) => {
      setOther(!file);
      if (file) bring.mutate(file);
    },
    noClick: true,
    noKeyboard: true,
    multiple: false,
    disabled: !folder || bring.isPending,
  });
  return (
    <div {...getRootProps()} className={`relative ${value ? "" : "min-h-[90px] rounded-sm bg-linen2"}`}>
      <input {...getInputProps()} aria-label="A picture to put here" />
      <div className={isDragActive ? "opacity-60" : ""}>{children}</div>
      <button
        type="button"
        disabled={bring.isPending}
        onClick={() => setOpen(true)}
        className="absolute bottom-3 left-3 rounded-[4px] border border-line bg-paper px-3 py-1 text-sm font-medium shadow-sm hover:bg-white"
      >
        {bring.isPending
          ? `${Math.round(sent * 100)} %`
          : folder
            ? "Drop a picture, or choose one"
            : "Choose a picture"}
      </button>
      {(other || bring.error) && (
        <p role="alert" className="mt-1 text-sm text-bar">
          {other ? "Only one picture goes here: a JPEG, PNG or WebP file." : words(bring.error)}
        </p>
      )}
      <PictureDialog
        open={open}
        onClose={() => setOpen(false)}
        value={value}
        onChoose={(picture) => {
          onChange(picture);
          setOpen(false);
        }}
      />
    </div>
  );
}
