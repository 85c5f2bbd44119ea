/** What a driver says of itself as data. A driver that has nothing else gets all that is general from it. */
import type { SettingsSchema } from './settingsSchema.ts';

export interface DriverManifest {
  readonly id: string;
  readonly label: string;
  readonly summary: string;
  /** Markdown. */
  readonly help: string;
  readonly link: SettingsSchema;
  readonly device: SettingsSchema;
  /** How one device reads the standard. */
  readonly dialect: SettingsSchema;
  /** What a point needs beside its address. */
  readonly point: SettingsSchema;
  /** The settings of a dialect under the questions that they answer. */
  readonly dialectGroups: readonly { readonly title: string; readonly fields: readonly string[] }[];
  /** Dialects that are met often, named by what they are. */
  readonly namedDialects: readonly { readonly name: string; readonly settings: Readonly<Record<string, unknown>> }[];
  readonly address: AddressGrammar;
  readonly capabilities: Capabilities;
  /** Where a link goes, short, its settings in braces: `{host}:{port}`. */
  readonly targetForm: string;
  /** Which party of the link a device is, its settings in braces: `unit {unit}`; empty where there is only one. */
  readonly partyForm: string;
}

export interface Capabilities {
  readonly write: boolean;
  readonly identify: boolean;
  readonly browse: boolean;
  readonly observe: boolean;
  readonly confirms: Confirming;
}

/**
 * How it is learnt what a device holds after a write. `asking`: it is read back. `telling`: it tells by itself, within so long, and
 * nothing is asked. `answering`: its answer to the write is all there is.
 */
export type Confirming = { readonly by: 'asking' } | { readonly by: 'telling'; readonly withinMs: number } | { readonly by: 'answering' };

/** How addresses are written, for drivers that cannot say it with functions. */
export interface AddressGrammar {
  /** Accepted notations with examples, for placeholders and messages. */
  readonly forms: string;
  /** A regular expression that a whole address fits, its spaces at the ends taken off. */
  readonly pattern: string;
  /** Where upper and lower case are the same, addresses are told apart in small letters. */
  readonly ignoresCase: boolean;
  /** Addresses that fit this can only be read; none where it is not given. */
  readonly readOnly?: string;
  /** Said of an address: `node {address}`. */
  readonly explains: string;
}

/** A form with settings in braces filled in. */
export function fillForm(form: string, settings: Readonly<Record<string, unknown>>): string {
  return form.replace(/\{(\w+)\}/g, (_whole, name: string) => {
    const value = settings[name];
    return typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean' ? String(value) : '';
  });
}
