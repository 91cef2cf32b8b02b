/** What is typed is taken before it can be lost: with the page, and with the field. */
import { useEffect, useRef } from "react";

export function useFlush(leave: () => void): void {
  const latest = useRef(leave);
  useEffect(() => {
    latest.current = leave;
  });
  useEffect(() => {
    const now = () => {
      latest.current();
    };
    window.addEventListener("pagehide", now);
    return () => {
      window.removeEventListener("pagehide", now);
      now();
    };
  }, []);
}
