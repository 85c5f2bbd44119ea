/** From a driver's manifest to all that is asked of its description; a built-in driver puts its own functions in place of the general ones. */
import type { AddressGrammar, DriverManifest } from '@/core/manifest/driverManifest.ts';
import { fillForm } from '@/core/manifest/driverManifest.ts';
import { secretsIn } from '@/core/manifest/settingsSchema.ts';
import { filledIn } from '@/core/manifest/yupOf.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import { fail, ok } from '@/core/result.ts';
import type { AddressNotation, DriverDescription, DriverFunctions } from './contract.ts';

export function describedBy(manifest: DriverManifest, own: Partial<DriverFunctions> = {}): DriverDescription {
  const target = own.target ?? ((link) => fillForm(manifest.targetForm, filledIn(manifest.link, link)));
  return {
    notation: notationOf(manifest.address),
    party: (device) => fillForm(manifest.partyForm, filledIn(manifest.device, device)),
    origin: (link, device, _dialect, canonical) => [manifest.id, target(link).toLowerCase(), sortedJson(told(manifest, device)) ?? '', canonical],
    wireInWords: () => 'a typed value',
    ...own,
    ...manifest,
    target,
  };
}

/** The data of a description, without its functions. */
export function manifestOf(description: DriverManifest): DriverManifest {
  const { id, label, summary, help, link, device, dialect, point, dialectGroups, namedDialects, address, capabilities, targetForm, partyForm } =
    description;
  return { id, label, summary, help, link, device, dialect, point, dialectGroups, namedDialects, address, capabilities, targetForm, partyForm };
}

/** What tells a device from others; who asks it is no part of where a value comes from. */
function told({ device }: DriverManifest, settings: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  const secret = secretsIn(device);
  return Object.fromEntries(Object.entries(filledIn(device, settings)).filter(([name]) => !secret.includes(name)));
}

/** The first of several forms. */
function firstOf(forms: string): string {
  return forms.split(/ (?:·|or) |[;,]/)[0]?.trim() ?? '';
}

function notationOf({ forms, pattern, ignoresCase, readOnly, explains }: AddressGrammar): AddressNotation {
  const whole = new RegExp(`^(?:${pattern})$`, ignoresCase ? 'iu' : 'u');
  const onlyRead = readOnly === undefined ? null : new RegExp(`^(?:${readOnly})$`, ignoresCase ? 'iu' : 'u');
  return {
    forms,
    example: firstOf(forms),
    parse(text) {
      const address = text.trim();
      if (!whole.test(address)) return fail('address-form', `“${address.slice(0, 60)}” is no address here.`, `Write it as ${forms}.`);
      return ok({ canonical: ignoresCase ? address.toLowerCase() : address, bit: null, writable: !onlyRead?.test(address) });
    },
    explain: (canonical) => fillForm(explains, { address: canonical }),
    format: (canonical) => canonical,
  };
}
