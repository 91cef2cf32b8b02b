/** Steps through a long list, a page at a time. */
import { Button } from "./Button";

interface Props {
  /** The page, from 0 on. */
  page: number;
  /** Entries of a page. */
  size: number;
  /** Entries in all. */
  total: number;
  onPage: (page: number) => void;
  /** How they are sorted, in words. */
  order: string;
}

export function Pager({ page, size, total, onPage, order }: Props) {
  if (total <= size) return null;
  return (
    <nav aria-label="Pages" className="flex items-center gap-3 px-4 py-2 text-sm">
      <Button
        disabled={page === 0}
        onClick={() => {
          onPage(page - 1);
        }}
      >
        Before
      </Button>
      <span>
        {page * size + 1} to {Math.min(total, (page + 1) * size)} of {total}, {order}
      </span>
      <Button
        disabled={(page + 1) * size >= total}
        onClick={() => {
          onPage(page + 1);
        }}
      >
        Further
      </Button>
    </nav>
  );
}
