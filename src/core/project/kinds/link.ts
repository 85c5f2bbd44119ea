import { ID_FIELD, connection, nameField, settings, words } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';

export interface Link {
  readonly id: string;
  readonly name: string;
  /** Which driver speaks on it. */
  readonly driver: string;
  readonly settings: Readonly<Record<string, unknown>>;
  /** How the machine is reached while the link leads to a simulation of it; null while it leads there. */
  readonly real: Connection | null;
}
export interface Connection {
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
    real: { label: 'Real connection', schema: connection(), column: 'real_way', stored: 'plain', unsaid: null },
  },
} as const satisfies Kind<Link>;
