import { useEffect, useRef } from "react";
import { useLocation } from "react-router";
import { outdated } from "../../api/reach";
import { keep, kept } from "../../offline/device";
import { Button } from "../Button";

const RELOADED = "spare-margin.reloaded-for";

/**
 * Once the program is replaced by another version the page comes afresh: at once where nothing was typed into it, else
 * when it is left, or when somebody presses.
 */
export function Updated() {
  const build = outdated.use();
  const { pathname } = useLocation();
  const typed = useRef(false);
  useEffect(() => {
    const onInput = () => {
      typed.current = true;
    };
    window.addEventListener("input", onInput, true);
    return () => window.removeEventListener("input", onInput, true);
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another page has nothing typed into it
  useEffect(() => {
    typed.current = false;
  }, [pathname]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: looked at anew on each page
  useEffect(() => {
    // Once for each version: a page that stays old for another reason must not come round and round.
    if (!build || typed.current || kept(RELOADED, "session") === build) return;
    if (keep(RELOADED, build, "session")) window.location.reload();
  }, [build, pathname]);
  if (!build) return null;
  return (
    <p role="status" className="dots-close p-2 text-center font-bold">
      The program was updated.{" "}
      <Button tone="quiet" onClick={() => window.location.reload()}>
        Reload this page
      </Button>
    </p>
  );
}
