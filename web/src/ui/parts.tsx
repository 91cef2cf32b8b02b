/** Small parts every screen uses. */
import { Dialog as RadixDialog, Tabs as RadixTabs } from "radix-ui";
import { useId, useState } from "react";
import type { Problem, Tape as TapeData } from "../api/client";

type ButtonProps = React.ComponentProps<"button"> & { main?: boolean };

export function Button({ main = false, className = "", ...rest }: ButtonProps) {
  const look = main ? "border-copper bg-copper text-on-copper" : "border-ink bg-sheet text-ink";
  return (
    <button
      type="button"
      className={`min-h-9 rounded-md border px-3 py-1 text-sm font-bold disabled:opacity-50 max-md:min-h-12 max-md:text-base ${look} ${className}`}
      {...rest}
    />
  );
}

export function Sheet({
  title,
  aside,
  children,
  className = "",
}: {
  title?: React.ReactNode;
  aside?: React.ReactNode;
  children: React.ReactNode;
  className?: string;
}) {
  return (
    <section className={`rounded-lg border border-line bg-sheet ${className}`}>
      {title !== undefined && (
        <header className="flex flex-wrap items-baseline gap-x-3 border-b border-line px-4 py-2">
          <h2 className="text-sm font-bold">{title}</h2>
          <span className="text-xs text-ink-2">{aside}</span>
        </header>
      )}
      {children}
    </section>
  );
}

export const inputLook =
  "min-h-9 w-full rounded border border-ink-3 bg-sheet px-2 text-sm max-md:min-h-12 max-md:text-base aria-[invalid=true]:border-2 aria-[invalid=true]:border-stop";

/** What is wrong at a place, if anything. */
export const problemAt = (problems: Problem[], path: string): Problem | undefined =>
  problems.find((p) => p.path === path);

function Said({ id, problem }: { id: string; problem: { message: string; hint?: string } | undefined }) {
  if (!problem) return null;
  return (
    <p id={id} role="alert" className="mt-0.5 text-xs font-bold text-stop">
      {problem.message}
      {problem.hint ? `: ${problem.hint}` : ""}
    </p>
  );
}

interface NumberFieldProps {
  label: string;
  unit?: string;
  value: number | null | undefined;
  problem?: Problem | undefined;
  onChange: (value: number | null) => void;
  /** Where nobody may edit. */
  readOnly?: boolean;
  /** From what is shown to what is kept: feet to metres. */
  factor?: number;
  compact?: boolean;
}

const shown = (value: number | null | undefined, factor: number): string =>
  value === null || value === undefined
    ? ""
    : String(Number(factor === 1 ? value.toPrecision(7) : (value / factor).toFixed(2)));

/** A number with its unit. What is typed stays as typed until it is left; what is no number is said at the field. */
export function NumberField({
  label,
  unit = "",
  value,
  problem,
  onChange,
  readOnly = false,
  factor = 1,
  compact = false,
}: NumberFieldProps) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const text = typed ?? shown(value, factor);
  const said = wrong ? { message: wrong } : problem;
  const leave = () => {
    if (typed === null) return;
    const clean = typed.trim().replace("−", "-").replace(",", ".");
    const parsed = clean === "" ? null : Number(clean);
    if (parsed !== null && !Number.isFinite(parsed)) {
      setWrong(`“${typed}” is no number`);
      return;
    }
    setWrong(null);
    setTyped(null);
    const kept = parsed === null ? null : parsed * factor;
    if (kept !== (value ?? null)) onChange(kept);
  };
  return (
    <div>
      <label htmlFor={id} className={compact ? "sr-only" : "block text-xs text-ink-2 max-md:text-base"}>
        {label}
      </label>
      <div className="flex items-center gap-1.5">
        <input
          id={id}
          inputMode="decimal"
          autoComplete="off"
          className={`${inputLook} text-right font-mono`}
          value={text}
          data-typing={typed !== null}
          readOnly={readOnly}
          aria-invalid={said !== undefined}
          aria-describedby={said ? `${id}-said` : undefined}
          onChange={(e) => {
            setTyped(e.target.value);
          }}
          onBlur={leave}
          onKeyDown={(e) => {
            if (e.key === "Enter") leave();
            if (e.key === "Escape") {
              setTyped(null);
              setWrong(null);
            }
          }}
        />
        {unit && <span className="min-w-4 shrink-0 text-xs text-ink-2">{unit}</span>}
      </div>
      <Said id={`${id}-said`} problem={said} />
    </div>
  );
}

interface TextFieldProps {
  label: string;
  /** Said instead of a label that is not shown. */
  name?: string;
  value: string;
  problem?: Problem | undefined;
  onChange: (value: string) => void;
  readOnly?: boolean;
}

export function TextField({ label, name, value, problem, onChange, readOnly = false }: TextFieldProps) {
  const id = useId();
  const [typed, setTyped] = useState<string | null>(null);
  const leave = () => {
    if (typed !== null && typed !== value) onChange(typed);
    setTyped(null);
  };
  return (
    <div>
      {label && (
        <label htmlFor={id} className="block text-xs text-ink-2">
          {label}
        </label>
      )}
      <input
        id={id}
        aria-label={name}
        className={inputLook}
        value={typed ?? value}
        data-typing={typed !== null}
        readOnly={readOnly}
        aria-invalid={problem !== undefined}
        onChange={(e) => {
          setTyped(e.target.value);
        }}
        onBlur={leave}
        onKeyDown={(e) => {
          if (e.key === "Enter") leave();
        }}
      />
      <Said id={`${id}-said`} problem={problem} />
    </div>
  );
}

interface PickProps {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  onChange: (value: string) => void;
  disabled?: boolean;
  compact?: boolean;
}

/** One of a few: the browser's own list, which works with gloves and with a keyboard. */
export function Pick({ label, value, options, onChange, disabled = false, compact = false }: PickProps) {
  const id = useId();
  return (
    <div>
      <label htmlFor={id} className={compact ? "sr-only" : "block text-xs text-ink-2 max-md:text-base"}>
        {label}
      </label>
      <select
        id={id}
        className={inputLook}
        value={value}
        disabled={disabled}
        onChange={(e) => {
          onChange(e.target.value);
        }}
      >
        {options.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
    </div>
  );
}

const TAPES: Record<string, string> = {
  blue: "#1F63B0",
  orange: "#D26A00",
  green: "#23824F",
  violet: "#7747B0",
  yellow: "#C29A00",
  brown: "#7A4A28",
  pink: "#BF4579",
  grey: "#66717B",
};

export const tapeColour = (tapes: TapeData[], letter: string): string =>
  TAPES[tapes.find((t) => t.letter === letter)?.colour ?? "grey"] ?? "#66717B";

/** The tape of a string: letter, colour and bands, the same wherever the circuit shows. */
export function Tape({ tapes, letter }: { tapes: TapeData[]; letter: string }) {
  const tape = tapes.find((t) => t.letter === letter);
  const bands = tape?.bands ?? 0;
  return (
    <svg
      width="26"
      height="18"
      viewBox="0 0 26 18"
      role="img"
      aria-label={`${letter}, ${tape?.colour ?? ""} tape${bands ? `, ${String(bands)} bands` : ""}`}
    >
      <rect width="26" height="18" rx="3" fill={tapeColour(tapes, letter)} />
      {Array.from({ length: Math.min(bands, 4) }, (_, i) => (
        <rect key={i} x={2 + i * 3} width="1.5" height="18" fill="#fff" />
      ))}
      <text x="13" y="13" textAnchor="middle" fontSize="12" fontWeight="700" fill="#fff" className="font-sans">
        {letter}
      </text>
    </svg>
  );
}

/** The small button that takes a line out. */
export function TakeOut({
  what,
  onClick,
  disabled = false,
}: {
  what: string;
  onClick: () => void;
  disabled?: boolean;
}) {
  return (
    <button
      type="button"
      className="min-h-8 text-xs whitespace-nowrap text-copper underline disabled:text-ink-3 max-md:min-h-12"
      aria-label={`Take out ${what}`}
      disabled={disabled}
      onClick={onClick}
    >
      Take out
    </button>
  );
}

export function Tick({
  label,
  checked,
  onChange,
  disabled = false,
}: {
  label: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
  disabled?: boolean;
}) {
  return (
    <label className="flex min-h-9 items-center gap-2 text-sm max-md:min-h-12 max-md:text-base">
      <input
        type="checkbox"
        className="size-4 accent-[var(--copper)] max-md:size-6"
        checked={checked}
        disabled={disabled}
        onChange={(e) => {
          onChange(e.target.checked);
        }}
      />
      {label}
    </label>
  );
}

interface TabsProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  tabs: readonly { key: string; title: string; note?: string; body: () => React.ReactNode }[];
}

/** A few views of the same thing, one at a time. */
export function Tabs({ label, value, onChange, tabs }: TabsProps) {
  return (
    <RadixTabs.Root value={value} onValueChange={onChange}>
      <RadixTabs.List aria-label={label} className="flex flex-wrap gap-1">
        {tabs.map((t) => (
          <RadixTabs.Trigger
            key={t.key}
            value={t.key}
            className="min-h-9 rounded-t-md border border-b-0 border-line bg-paper px-3 text-sm text-ink-2 aria-selected:bg-sheet aria-selected:font-bold aria-selected:text-ink max-md:min-h-12"
          >
            {t.title}
            {t.note && <span className="ml-2 text-xs font-normal text-ink-2">{t.note}</span>}
          </RadixTabs.Trigger>
        ))}
      </RadixTabs.List>
      {tabs.map((t) => (
        <RadixTabs.Content key={t.key} value={t.key} className="rounded-lg rounded-tl-none border border-line bg-sheet">
          {value === t.key && t.body()}
        </RadixTabs.Content>
      ))}
    </RadixTabs.Root>
  );
}

interface DialogProps {
  title: string;
  open: boolean;
  onClose: () => void;
  wide?: boolean;
  children: React.ReactNode;
}

export function Dialog({ title, open, onClose, wide = false, children }: DialogProps) {
  return (
    <RadixDialog.Root
      open={open}
      onOpenChange={(next) => {
        if (!next) onClose();
      }}
    >
      <RadixDialog.Portal>
        <RadixDialog.Overlay className="fixed inset-0 z-30 bg-[rgb(0_0_0/0.45)]" />
        <RadixDialog.Content
          aria-describedby={undefined}
          className={`fixed top-[8vh] left-1/2 z-40 max-h-[84vh] -translate-x-1/2 overflow-auto rounded-lg border border-line bg-sheet p-4 text-ink ${wide ? "w-[min(50rem,calc(100vw-1.5rem))]" : "w-[min(34rem,calc(100vw-1.5rem))]"}`}
        >
          <RadixDialog.Title className="mb-3 text-lg font-bold">{title}</RadixDialog.Title>
          {children}
        </RadixDialog.Content>
      </RadixDialog.Portal>
    </RadixDialog.Root>
  );
}
