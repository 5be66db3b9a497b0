import { useEffect } from "react";

/** What the browser calls the page; as it was while that is not known yet. */
export function useTitle(title: string | undefined) {
  useEffect(() => {
    if (title) document.title = title;
  }, [title]);
}
