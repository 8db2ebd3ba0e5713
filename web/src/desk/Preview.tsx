// The page as visitors would read it, with what is not saved yet: wide as on a screen, or narrow as in a hand.
import { useEffect, useState } from "react";
import { Dialog } from "../shared/Dialog";
import { Chip, ErrorNotice, Loading } from "../shared/ui";
import { type Edits, type Page, usePreview } from "./useDesk";

type PreviewProps = { page: Page; edits: Partial<Edits>; open: boolean; onClose: () => void };

export function Preview({ page, edits, open, onClose }: PreviewProps) {
  return (
    <Dialog open={open} onClose={onClose} title={`${page.title}, as visitors would read it`} size="large">
      {open && <Drawn page={page} edits={edits} />}
    </Dialog>
  );
}

function Drawn({ page, edits }: Omit<PreviewProps, "open" | "onClose">) {
  const preview = usePreview(page);
  const [narrow, setNarrow] = useState(false);
  const draw = () => preview.mutate(edits);
  // biome-ignore lint/correctness/useExhaustiveDependencies: drawn once, as it was when it was opened
  useEffect(draw, []);
  if (preview.error) return <ErrorNotice error={preview.error} again={draw} />;
  if (!preview.data) return <Loading what="the page" />;
  return (
    <>
      <div className="mb-2 flex items-center gap-2">
        <Chip on={!narrow} onClick={() => setNarrow(false)}>
          Wide
        </Chip>
        <Chip on={narrow} onClick={() => setNarrow(true)}>
          Narrow
        </Chip>
        <p className="text-xs text-ink2">
          {preview.data.seen
            ? page.state === "published" && Object.keys(edits).length === 0
              ? "This is what visitors read now."
              : "Nothing of this is public before it is saved and published."
            : "Visitors would not see this page, even once it is published."}
        </p>
      </div>
      <iframe
        title={`${page.title}, as visitors would read it`}
        sandbox="allow-same-origin allow-popups allow-popups-to-escape-sandbox"
        srcDoc={preview.data.html}
        className={`mx-auto block h-[64vh] rounded border border-line bg-white ${narrow ? "w-[390px] max-w-full" : "w-full"}`}
      />
    </>
  );
}
