// Choose one of the pictures one may see.
import { PlacePicker } from "../shared/PlacePicker";

type PickerProps = { id: string; value: string; readOnly: boolean; onChange: (value: string) => void };

export function PicturePicker({ id, value, readOnly, onChange }: PickerProps) {
  return (
    <PlacePicker
      id={id}
      tree="media"
      only="picture"
      what="picture"
      none="No picture"
      disabled={readOnly}
      value={value}
      onPick={onChange}
    />
  );
}
