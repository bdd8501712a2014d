import { SetMetadata } from '@nestjs/common';
import type { Request } from 'express';

/** What a route that changes something does, for the audit log. `on` names the thing; it must never return a secret. */
export interface Action {
  readonly name: string;
  readonly on: (request: Request) => string;
}
export const ACTION = 'action';

const bodyField = (request: Request, field: string): string => {
  const body: unknown = request.body;
  const value: unknown =
    typeof body === 'object' && body !== null ? (body as Record<string, unknown>)[field] : undefined; // checked here
  return typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean' ? String(value) : '';
};
export const named = (field: string) => (request: Request) => bodyField(request, field);
export const numbered = (request: Request): string => String(request.params['id'] ?? '');
export const keyed = (request: Request): string => String(request.params['key'] ?? '');

/** Every route that changes something bears one; a test enumerates them. */
export const Audited = (name: string, on: Action['on'] = () => '') =>
  SetMetadata(ACTION, { name, on } satisfies Action);
