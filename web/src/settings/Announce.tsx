import { Button } from "@mantine/core";
import { useState } from "react";

/** Whether the browser may show reminders while Orario is open in a tab behind others. */
export function Announce() {
  const [state, setState] = useState(
    typeof Notification === "undefined" ? "missing" : Notification.permission,
  );
  if (state === "missing") return <p className="soft">This browser shows no notifications.</p>;
  if (state === "granted")
    return (
      <p className="soft">This browser shows reminders also when another window is in front.</p>
    );
  if (state === "denied")
    return (
      <p className="soft">
        This browser was told not to show notifications; its own settings can change that.
      </p>
    );
  return (
    <Button
      variant="default"
      onClick={async () => setState(await Notification.requestPermission())}
    >
      Show them as browser notifications too
    </Button>
  );
}
