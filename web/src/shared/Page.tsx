import { type ReactNode, useEffect, useRef } from "react";
import { useLocation } from "react-router";

/** The content of a page. It takes the focus when one goes from page to page, so that keys and screen readers begin there. */
export function Page({ children }: { children: ReactNode }) {
  const main = useRef<HTMLElement>(null);
  const { pathname } = useLocation();
  const before = useRef(pathname);
  useEffect(() => {
    if (before.current === pathname) return;
    before.current = pathname;
    main.current?.focus({ preventScroll: true });
    if (!location.hash) window.scrollTo(0, 0);
  }, [pathname]);
  return (
    <main id="main" ref={main} tabIndex={-1}>
      {children}
    </main>
  );
}
