import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import type { ToolProps } from "../work";

/** An address as a file: looked at once, with the date and a digest of what was there. */
export default function LinkTool({ begin, busy }: ToolProps) {
  const [url, setUrl] = useState("");
  const [name, setName] = useState("");
  return (
    <form
      style={{ display: "contents" }}
      onSubmit={(e) => {
        e.preventDefault();
        begin("link", { url, name }, []);
      }}
    >
      <TextInput
        label="Address"
        type="url"
        required
        value={url}
        onChange={(e) => setUrl(e.target.value)}
      />
      <TextInput label="Name, if you like" value={name} onChange={(e) => setName(e.target.value)} />
      <Button type="submit" loading={busy} disabled={url.trim() === ""}>
        Look at it and note it
      </Button>
    </form>
  );
}
