// Empty, working, failed: said the same way on every page.

import type { ReactNode } from 'react';
import { ProblemError } from '../api/client';
import { Rename, type RenameProps } from './Rename';

export function Loading({ what }: { what: string }) {
  return (
    <div className="page soft" role="status">
      Fetching {what}…
    </div>
  );
}

export function Problem({ error }: { error: unknown }) {
  if (!error) return null;
  const text = error instanceof ProblemError || error instanceof Error ? error.message : String(error);
  return (
    <div className="stop" role="alert">
      {text}
    </div>
  );
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="empty">
      <h2>{title}</h2>
      <div className="mt-2">{children}</div>
    </div>
  );
}

type HeadProps = { title: ReactNode; rename?: RenameProps; says?: ReactNode; state?: ReactNode; children?: ReactNode };

export function Head({ title, rename, says, state, children }: HeadProps) {
  return (
    <div className="head">
      <div className="title">
        {rename ? <Rename {...rename}>{title}</Rename> : <h1>{title}</h1>}
        {says && <div className="tight soft">{says}</div>}
      </div>
      {state && <div className="state tight">{state}</div>}
      {children}
    </div>
  );
}

/** A date as a person says it. */
export function day(iso: string) {
  return new Date(iso).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' });
}

/** A figure with its unit. */
export function figure(value: number, digits: number, unit: string) {
  return `${value.toFixed(digits)} ${unit}`;
}

/** Two numbers that come as a list. */
export const pair = (v: number[] | null | undefined): [number, number] => [v?.[0] ?? Number.NaN, v?.[1] ?? Number.NaN];
