// Choose one of the pictures one may see.
import { INPUT } from "../shared/ui";
import { useDeskTree } from "./useDesk";

type PickerProps = { id: string; value: string; readOnly: boolean; onChange: (value: string) => void };

export function PicturePicker({ id, value, readOnly, onChange }: PickerProps) {
  const pictures =
    useDeskTree("media").data?.filter((node) => node.type === "picture" && !node.context) ?? [];
  return (
    <select
      id={id}
      disabled={readOnly}
      value={value}
      onChange={(event) => onChange(event.target.value)}
      className={INPUT}
    >
      <option value="">No picture</option>
      {value && !pictures.some((picture) => picture.id === value) && (
        <option value={value}>The present picture</option>
      )}
      {pictures.map((picture) => (
        <option key={picture.id} value={picture.id}>
          {picture.title}
        </option>
      ))}
    </select>
  );
}
