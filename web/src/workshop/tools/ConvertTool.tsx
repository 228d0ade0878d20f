import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import { sortOf, uses } from "../../shared/kinds";
import { type ToolProps } from "../work";

/** What files of some kinds can become: several only one PDF. */
function forms(kinds: string[]): string[] {
  if (kinds.length > 1) return kinds.every((k) => uses(k).becomes.includes("pdf")) ? ["pdf"] : [];
  return uses(kinds[0]!).becomes;
}

/** Another form, fewer bytes, a part of a recording. */
export default function ConvertTool({ desk, chosen, begin, busy }: ToolProps) {
  const list = forms(chosen.map((c) => c.kind));
  const slot = desk.slots.find((s) => s.name === chosen[0]?.slot);
  const asked = list.find((f) => slot?.forms.includes(f === "jpg" ? "jpeg" : f));
  const [picked, setForm] = useState("");
  const form = list.includes(picked) ? picked : (asked ?? list[0] ?? "");
  const [megabytes, setMegabytes] = useState("");
  const [pdfa, setPdfa] = useState(false);
  const [from, setFrom] = useState("");
  const [length, setLength] = useState("");
  const recording = ["sound", "film"].includes(sortOf(form));
  const number = (text: string) => Number(text.replace(",", ".")) || 0;
  if (list.length === 0)
    return <p className="soft">These do not go into one file but a ZIP: use Pack.</p>;
  return (
    <>
      <NativeSelect
        label={
          chosen.length > 1
            ? `${chosen.length} files, in the order of their numbers, into one`
            : "Into"
        }
        value={form}
        onChange={(e) => setForm(e.target.value)}
        data={list.map((f) => ({
          value: f,
          label: f.toUpperCase() + (f === asked ? ", as is asked for" : ""),
        }))}
      />
      {!["docx", "odt", "rtf", "txt", "png", "wav", "flac"].includes(form) && (
        <TextInput
          label="At most, in MB; empty: as it comes"
          inputMode="decimal"
          value={megabytes}
          onChange={(e) => setMegabytes(e.target.value)}
        />
      )}
      {form === "pdf" && (
        <Checkbox
          label="For archives (PDF/A-2b)"
          checked={pdfa}
          onChange={(e) => setPdfa(e.currentTarget.checked)}
        />
      )}
      {recording && (
        <>
          <TextInput
            label="From, in seconds"
            inputMode="decimal"
            value={from}
            onChange={(e) => setFrom(e.target.value)}
          />
          <TextInput
            label="How long, in seconds; empty: to the end"
            inputMode="decimal"
            value={length}
            onChange={(e) => setLength(e.target.value)}
          />
        </>
      )}
      <Button
        loading={busy}
        onClick={() =>
          begin("convert", {
            form,
            pdfa: form === "pdf" && pdfa,
            max_bytes: Math.round(number(megabytes) * 1e6),
            from: recording ? number(from) : 0,
            length: recording ? number(length) : 0,
          })
        }
      >
        Convert to {form.toUpperCase()}
      </Button>
    </>
  );
}
