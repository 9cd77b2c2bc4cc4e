import type { ReactNode } from "react";
import { Link } from "react-router";
import { Mark } from "./Mark";
import { ThemeSwitch } from "./ThemeSwitch";

const PLACES = [
  ["/", "Shelf"],
  ["/licks", "Lick book"],
  ["/players", "Players"],
] as const;

/** The head of every page that is not a solo's: where one is, and where else one can go. */
export function TopBar({ here, children }: { here: (typeof PLACES)[number][1]; children?: ReactNode }) {
  return (
    <header className="flex min-h-14 flex-wrap items-center gap-x-8 border-b border-rule px-7 max-sm:gap-x-4 max-sm:px-4 print:hidden">
      <Mark />
      <nav aria-label="Places" className="flex gap-7 max-sm:gap-4">
        {PLACES.map(([to, word]) => (
          <Link
            key={to}
            to={to}
            aria-current={word === here ? "page" : undefined}
            className={`border-b-4 pt-1 text-[17px] font-bold leading-[50px] ${
              word === here ? "border-ink" : "border-transparent text-ink-2"
            }`}
          >
            {word}
          </Link>
        ))}
      </nav>
      <span className="ml-auto" />
      {children}
      <ThemeSwitch />
    </header>
  );
}
