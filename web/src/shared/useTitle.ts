import { useEffect } from "react";

/** Names the page in the tab of the browser, and for whoever listens to it. */
export function useTitle(title: string | undefined) {
  useEffect(() => {
    document.title = title ? `${title} · Coombe` : "Coombe";
  }, [title]);
}
