/** Where the members of a block lie, as its device writes addresses: by their names, or counted from where the block begins. */
import type { Structure } from '@/core/project/entities.ts';
import { placedLeaves } from '@/core/project/structurePlaces.ts';
import type { StructuresNamed } from '@/core/project/structureTree.ts';
import type { Layout } from '@/core/taglist/layout.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { DriverDescription, Settings } from '@/drivers/contract.ts';

/** How a device lays structures out: each member in words of its own, where nobody has said more (common practice). */
export function layoutOn(driver: DriverDescription, dialect: Settings): Layout {
  const said = driver.bytes?.laysOut?.(dialect).structures ?? 'none';
  return said === 'none' ? 'words' : said;
}

/** Addresses by the paths of members, in small letters. Members that the device cannot name are not here. */
export function blockAddresses(
  address: string,
  structure: Structure,
  named: StructuresNamed,
  { driver, dialect }: { readonly driver: DriverDescription; readonly dialect: Settings },
): ReadonlyMap<string, string> {
  const { notation } = driver;
  const found = new Map<string, string>();
  for (const { path, member, atBit } of placedLeaves(structure, named, layoutOn(driver, dialect))) {
    const type = parseDataType(member.type);
    if (notation.inside) found.set(path.toLowerCase(), notation.inside(address, path));
    else if (notation.member && type.ok && atBit !== null) {
      const at = notation.member(address, atBit, type.value, dialect);
      if (at.ok) found.set(path.toLowerCase(), at.value);
    }
  }
  return found;
}
