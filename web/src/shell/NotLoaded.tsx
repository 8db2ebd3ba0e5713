// A place that could not be loaded: the connection dropped, or the application was renewed meanwhile.
import { Button, Empty } from "../shared/ui";

export function NotLoaded() {
  return (
    <Empty title="This place could not be loaded" heading>
      <p>
        The connection may have dropped, or Gonfalon was renewed meanwhile. Nothing that is staged is lost.
      </p>
      <Button className="mt-3" onClick={() => location.reload()}>
        Load again
      </Button>
    </Empty>
  );
}
