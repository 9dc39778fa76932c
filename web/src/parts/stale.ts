// Unsaved work with the version that it began from, and whether somebody saved since.
import { ProblemError } from '../api/client';

/** What a refused save says of the other's version; null where it was refused for another reason. */
export function otherSide<T>(e: unknown): T | null {
  return e instanceof ProblemError && e.status === 409 && e.current != null ? (e.current as T) : null;
}
