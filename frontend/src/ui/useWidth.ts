import { useEffect, useLayoutEffect, useState } from "react";

/** Width in CSS pixels of an element, kept current: `const [ref, width] = useWidth()`. */
export function useWidth(): [(element: HTMLElement | null) => void, number] {
  const [element, setElement] = useState<HTMLElement | null>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    if (!element) return;
    // Known before anything is painted: what is laid out twice jumps away under a finger.
    const { paddingLeft, paddingRight } = getComputedStyle(element);
    const beside = Number.parseFloat(paddingLeft) + Number.parseFloat(paddingRight);
    setWidth(element.getBoundingClientRect().width - beside);
    const watch = new ResizeObserver(([entry]) => setWidth(entry?.contentRect.width ?? 0));
    watch.observe(element);
    return () => watch.disconnect();
  }, [element]);
  return [setElement, width];
}

/** Whether the page is in hand (a phone) rather than on the bench. */
export function useInHand(): boolean {
  const [inHand, setInHand] = useState(() => matchMedia("(max-width: 760px)").matches);
  useEffect(() => {
    const media = matchMedia("(max-width: 760px)");
    const follow = () => setInHand(media.matches);
    media.addEventListener("change", follow);
    return () => media.removeEventListener("change", follow);
  }, []);
  return inHand;
}
