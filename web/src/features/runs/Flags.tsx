import type { Run } from "./queries";

const SEVERITY_WORDS = { void: "Proposes to void", caution: "Caution", note: "Note" };

export function Flags({ flags }: { flags: Run["flags"] }) {
  if (!flags.length) return null;
  return (
    <section className="sheet" aria-label="Flags">
      {flags.map((flag) => (
        <p key={flag.code} className={`flag ${flag.severity}`}>
          <strong>{SEVERITY_WORDS[flag.severity]}:</strong> {flag.message}
        </p>
      ))}
    </section>
  );
}
