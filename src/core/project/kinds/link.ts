import { ID_FIELD, nameField, settings, words } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';

export interface Link {
  readonly id: string;
  readonly name: string;
  /** Which driver speaks on it. */
  readonly driver: string;
  readonly settings: Readonly<Record<string, unknown>>;
}

export const linkKind = {
  plural: 'links',
  table: 'links',
  fields: {
    id: ID_FIELD,
    name: nameField('The link'),
    driver: { label: 'Protocol', schema: words('The driver', 40).min(1).defined(), column: 'driver', stored: 'text' },
    settings: { label: 'Settings', schema: settings().defined(), column: 'settings', stored: 'plain' },
  },
} as const satisfies Kind<Link>;
