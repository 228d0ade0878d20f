import { useEffect } from "react";

/** Names the page in the browser's title: "Tide tables · Orario". */
export function useTitle(name: string | undefined) {
  useEffect(() => {
    document.title = name ? `${name} · Orario` : "Orario";
  }, [name]);
}
