import { NativeSelect } from "@mantine/core";
import type { Desk } from "../api/client";

type Props = { desk: Desk; label: string; slot: string; choose: (slot: string) => void };

/** Which slot something belongs into, where there are several. */
export function SlotChoice({ desk, label, slot, choose }: Props) {
  if (desk.slots.length < 2) return null;
  return (
    <NativeSelect
      label={label}
      value={slot}
      onChange={(e) => choose(e.target.value)}
      data={desk.slots.map((s) => s.name)}
    />
  );
}

/** The slot that something new belongs into unless another is chosen: the first with room. */
export const firstSlot = (desk: Desk) =>
  desk.slots.find((s) => !s.full)?.name ?? desk.slots[0]?.name ?? "";
