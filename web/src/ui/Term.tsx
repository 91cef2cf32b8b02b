/** A term with its explanation behind it: pressed, it is said where it stands. */
import { lazy, Suspense, useState } from "react";
import { TERMS, type TermName } from "../text/terms";
import { termLook } from "./termLook";

const TermSaid = lazy(async () => ({ default: (await import("./TermSaid")).TermSaid }));

interface Props {
  name: TermName;
  /** What stands there, where that is not the name. */
  text?: string;
}

export function Term({ name, text = name }: Props) {
  const [asked, setAsked] = useState(false);
  const button = (
    <button
      type="button"
      className={termLook}
      aria-label={`${text}: what is that?`}
      onClick={() => {
        setAsked(true);
      }}
    >
      {text}
    </button>
  );
  if (!asked) return button;
  return (
    <Suspense fallback={button}>
      <TermSaid text={text} said={TERMS[name]} />
    </Suspense>
  );
}
