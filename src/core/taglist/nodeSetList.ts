/** A node set as a list: a server's variables without the server. */
import { PASSED_OVER_IN_NODE_SET, variablesOfNodeSet, type NodeSetVariable } from '../opcua/nodeSet.ts';
import { checkNames, formatNames } from '../value/valueNames.ts';
import { listOfRows, unreadable, type ListRow, type ReadList } from './readList.ts';
import { child, readXml } from './xmlNodes.ts';

/** Its root may stand behind a long note on its licence. */
export function looksLikeNodeSet(text: string): boolean {
  return /<(?:\w+:)?UANodeSet\b/.test(text.slice(0, 20_000));
}

export function readNodeSet(text: string): ReadList {
  const read = readXml(text, PASSED_OVER_IN_NODE_SET);
  if (!read.root) return unreadable('nodeset', read.problem);
  const rows = variablesOfNodeSet(read.root).map(rowOf);
  if (rows.length === 0 && !read.problem)
    return unreadable('nodeset', {
      code: 'no-rows',
      message: 'The node set has no variable under Objects: it describes types, whose instances only the server has.',
      remedy: 'Ask the device for its tags, or export the node set with the instances.',
    });
  const version = child(child(read.root, 'Models'), 'Model')?.attributes.Version ?? '';
  return listOfRows('nodeset', rows, read.problem ? [read.problem] : [], version);
}

function rowOf({ path, canonical, type, within, access, comment, unit, range, names, enumeration, line, place }: NodeSetVariable): ListRow {
  const checked = names.length > 0 ? checkNames(names) : null;
  return {
    row: line,
    place,
    cells: {
      name: path,
      address: canonical,
      type: type ?? '',
      access,
      comment,
      unit,
      ...(range ? { low: String(range.low), high: String(range.high) } : {}),
      ...(checked?.ok ? { enumeration: formatNames(checked.value) } : {}),
    },
    surplus: 0,
    ...(within.length > 0 ? { within } : {}),
    ...(enumeration && checked?.ok ? { enumeration } : {}),
    ...(type === null
      ? {
          problems: [
            {
              code: 'unknown-type',
              message: 'Its data type is none that a tag can hold, or is described in another node set.',
              remedy: 'Ask the device for its tags: the server knows all of its types.',
              place,
            },
          ],
        }
      : {}),
  };
}
