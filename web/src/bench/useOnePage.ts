import { useEffect, useRef } from "react";

/** A4 on its side within margins of 8 mm, in pixels of 1/96 inch. */
const PAGE = { width: 1060, height: 730 };
const TWO_COLUMNS_FROM = 900;

/** Returns a ref to what is printed as it stands on the screen, all of it on one page. */
export function useOnePage<T extends HTMLElement>() {
  const ref = useRef<T>(null);
  useEffect(() => {
    function fit() {
      const element = ref.current;
      if (!element) return;
      const { width, height } = element.getBoundingClientRect();
      // What scrolls on the screen is shown whole on paper.
      const hidden = [...element.children].map((part) => part.scrollHeight - part.clientHeight);
      const tall = height + Math.max(0, ...hidden);
      // The page is narrower than the screen it stood on, and would stack what stands side by side.
      if (width >= TWO_COLUMNS_FROM) {
        element.style.gridTemplateColumns = "minmax(0, 1fr) 326px";
        element.style.gridTemplateRows = "minmax(0, 1fr) 160px";
      }
      element.style.width = `${width}px`;
      element.style.height = `${tall}px`;
      element.style.zoom = String(Math.min(PAGE.width / width, PAGE.height / tall));
    }
    function restore() {
      for (const name of ["grid-template-columns", "grid-template-rows", "width", "height", "zoom"])
        ref.current?.style.removeProperty(name);
    }
    window.addEventListener("beforeprint", fit);
    window.addEventListener("afterprint", restore);
    return () => {
      window.removeEventListener("beforeprint", fit);
      window.removeEventListener("afterprint", restore);
    };
  }, []);
  return ref;
}
