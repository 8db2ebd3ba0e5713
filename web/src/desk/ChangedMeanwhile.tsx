// Someone else saved the page meanwhile: both versions beside each other, and the choice.
import { Dialog, DialogButtons } from "../shared/Dialog";
import { Button } from "../shared/ui";
import type { Page } from "./useDesk";

type Mine = Omit<Page, "fields"> & { values: Record<string, unknown>; fields: Page["fields"] };
type Props = {
  base: Page;
  mine: Mine;
  theirs: Page;
  onKeepMine: () => void;
  onTakeTheirs: () => void;
  onClose: () => void;
};

export function ChangedMeanwhile({ base, mine, theirs, onKeepMine, onTakeTheirs, onClose }: Props) {
  const rows = differences(base, mine, theirs);
  return (
    <Dialog
      open
      onClose={onClose}
      title={`${theirs.saved_by ?? "Someone"} saved this page while you were editing it`}
      size="wide"
    >
      <table className="w-full text-sm">
        <thead>
          <tr className="border-b border-line text-left text-xs text-ink2">
            <th className="w-[130px] py-1 font-normal">Part</th>
            <th className="font-normal">Theirs, saved</th>
            <th className="font-normal">Yours, not saved</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ part, theirs, mine }) => (
            <tr key={part} className="border-b border-linen2 align-top">
              <th scope="row" className="py-1.5 pr-3 text-left font-semibold">
                {part}
              </th>
              <td className="py-1.5 pr-3">{theirs}</td>
              <td className="py-1.5">{mine}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <DialogButtons>
        <Button onClick={onClose}>Go on editing</Button>
        <Button onClick={onTakeTheirs}>Take theirs</Button>
        <Button look="main" onClick={onKeepMine}>
          Save yours over it
        </Button>
      </DialogButtons>
    </Dialog>
  );
}

/** The parts in which the two versions differ from each other. */
function differences(base: Page, mine: Mine, theirs: Page) {
  const rows = [{ part: "Title", theirs: theirs.title, mine: mine.title }];
  for (const field of theirs.fields) {
    const own =
      field.key in mine.values ? mine.values[field.key] : base.fields.find((f) => f.key === field.key)?.value;
    rows.push({ part: field.name, theirs: text(field.value), mine: text(own) });
  }
  const ids = new Set([...theirs.components, ...mine.components].map((component) => component.id));
  for (const id of ids) {
    const [a, b] = [theirs, mine].map((page) => page.components.find((component) => component.id === id));
    rows.push({
      part: `${a?.kind ?? b?.kind}`,
      theirs: a ? props(a.props) : "taken out",
      mine: b ? props(b.props) : "taken out",
    });
  }
  return rows.filter((row) => row.theirs !== row.mine);
}

function props(values: Record<string, unknown>): string {
  return Object.values(values).map(text).filter(Boolean).join(" · ");
}

function text(value: unknown): string {
  if (value === null || value === undefined) return "";
  return typeof value === "object" ? JSON.stringify(value) : String(value).replace(/<[^>]+>/g, "");
}
