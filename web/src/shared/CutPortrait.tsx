// Cutting a picture to the square that stands for somebody.
import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import Cropper, { type Area } from "react-easy-crop";
import "react-easy-crop/react-easy-crop.css";
import { answer, api, ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "./Dialog";
import { keys } from "./keys";
import { accessChanged, queryClient } from "./query";
import { Button, INPUT, Labelled } from "./ui";

type CutProps = { open: boolean; onClose: () => void; account: string; portrait: string | null };

export function CutPortrait({ open, ...rest }: CutProps) {
  return (
    <Dialog open={open} onClose={rest.onClose} title="Portrait">
      {open && <Cut {...rest} />}
    </Dialog>
  );
}

function Cut({ onClose, account, portrait }: Omit<CutProps, "open">) {
  const [file, choose] = useState<File | null>(null);
  const source = useAddress(file);
  const [crop, setCrop] = useState({ x: 0, y: 0 });
  const [zoom, setZoom] = useState(1);
  const [area, setArea] = useState<Area | null>(null);
  const { save, remove } = usePortrait(account, onClose);
  const error = save.error ?? remove.error;
  const problem = error instanceof ProblemError ? error : null;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (file) save.mutate({ file, area });
      }}
    >
      <Labelled label="Picture" hint="JPEG, PNG or WebP, up to 10 MB" error={problem?.problem.detail}>
        {(id, by) => (
          <input
            id={id}
            aria-describedby={by}
            type="file"
            accept="image/jpeg,image/png,image/webp"
            onChange={(event) => choose(event.target.files?.[0] ?? null)}
            className={INPUT}
          />
        )}
      </Labelled>
      {source && (
        <>
          <div className="relative h-[260px] overflow-hidden rounded bg-rod">
            <Cropper
              image={source}
              crop={crop}
              zoom={zoom}
              aspect={1}
              onCropChange={setCrop}
              onZoomChange={setZoom}
              onCropComplete={(share) => setArea(share)}
              cropperProps={{ "aria-label": "The square that is kept; arrow keys move it" }}
            />
          </div>
          <Labelled label="Closer">
            {(id) => (
              <input
                id={id}
                type="range"
                min={1}
                max={4}
                step={0.05}
                value={zoom}
                onChange={(event) => setZoom(Number(event.target.value))}
                className="w-full accent-rod"
              />
            )}
          </Labelled>
        </>
      )}
      <DialogButtons>
        {portrait && (
          <Button look="quiet" onClick={() => remove.mutate()} disabled={remove.isPending}>
            Take it away
          </Button>
        )}
        <Button onClick={onClose}>Cancel</Button>
        <Button type="submit" look="main" disabled={!file || save.isPending}>
          Keep this
        </Button>
      </DialogButtons>
    </form>
  );
}

/** Where the browser shows a file that was chosen. */
function useAddress(file: File | null): string | null {
  const [address, setAddress] = useState<string | null>(null);
  useEffect(() => {
    if (!file) return setAddress(null);
    const made = URL.createObjectURL(file);
    setAddress(made);
    return () => URL.revokeObjectURL(made);
  }, [file]);
  return address;
}

function usePortrait(account: string, onDone: () => void) {
  const params = { path: { account } };
  const onSuccess = async () => {
    onDone();
    await Promise.all([accessChanged(), queryClient.invalidateQueries({ queryKey: keys.me })]);
  };
  const save = useMutation({
    mutationFn: ({ file, area }: { file: File; area: Area | null }) => {
      const form = new FormData();
      form.set("picture", file);
      const { x, y, width, height } = area ?? { x: 0, y: 0, width: 100, height: 100 };
      for (const [key, percent] of Object.entries({ left: x, top: y, width, height }))
        form.set(key, String(Math.min(1, Math.max(0, percent / 100))));
      return answer(
        api.PUT("/api/accounts/{account}/portrait", {
          params,
          body: {} as never,
          bodySerializer: () => form,
        }),
      );
    },
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: () => answer(api.DELETE("/api/accounts/{account}/portrait", { params })),
    onSuccess,
  });
  return { save, remove };
}
