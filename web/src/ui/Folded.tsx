import { Sheet } from "./Sheet";

interface Props {
  title: string;
  aside: string;
  open: boolean;
  onOpen: (open: boolean) => void;
  children: React.ReactNode;
}

/** A sheet whose content is there when it is asked for. */
export function Folded({ title, aside, open, onOpen, children }: Props) {
  return (
    <Sheet
      title={
        <button
          type="button"
          className="font-bold"
          aria-expanded={open}
          onClick={() => {
            onOpen(!open);
          }}
        >
          {title}
        </button>
      }
      aside={aside}
      className="mb-3"
    >
      {open && children}
    </Sheet>
  );
}
