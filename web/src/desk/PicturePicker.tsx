// Choose one of the pictures one may see.
import { Picker } from "../shared/Picker";
import { useDeskTree } from "./useDesk";

type PickerProps = { id: string; value: string; readOnly: boolean; onChange: (value: string) => void };

export function PicturePicker({ id, value, readOnly, onChange }: PickerProps) {
  const pictures =
    useDeskTree("media").data?.filter((node) => node.type === "picture" && !node.context) ?? [];
  return (
    <Picker
      id={id}
      what="picture"
      none="No picture"
      disabled={readOnly}
      value={value}
      chosenName={value ? "The present picture" : undefined}
      onPick={onChange}
      choices={pictures.map((picture) => ({ key: picture.id, name: picture.title }))}
    />
  );
}
