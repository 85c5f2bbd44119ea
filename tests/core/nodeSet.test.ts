/** Node sets as lists, against the standard's own file and those of companion specifications that node-opcua ships. */
import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { nodesets, setWarningLogger } from 'node-opcua';
import { readNodeSet, looksLikeNodeSet } from '@/core/taglist/nodeSetList.ts';
import { all, child, looksLikeXml, readXml, type XmlNode } from '@/core/taglist/xmlNodes.ts';
import { PASSED_OVER_IN_NODE_SET, variablesOfNodeSet } from '@/core/opcua/nodeSet.ts';
import { readAny } from '@/services/lists/readAny.ts';

// It warns, after a while, of what this Node does not do.
setWarningLogger(() => undefined);

const fileOf = (path: string): string => readFileSync(path, 'utf8');
const BAGGER = fileOf(new URL('../data/bagger.NodeSet2.xml', import.meta.url).pathname);
const rootOf = (text: string): XmlNode => {
  const { root } = readXml(text, PASSED_OVER_IN_NODE_SET);
  if (!root) throw new Error('no XML');
  return root;
};

describe('a node set', () => {
  test('gives what lies under Objects, by the names that browsing gives: members, elements, unit, range, names of values', () => {
    const list = readNodeSet(BAGGER);
    expect(list.problems).toEqual([]);
    expect(list.programVersion).toBe('1.0.0');
    const rows = new Map(list.rows.map(({ cells, within = [] }) => [cells.name, [cells.address, cells.type, cells.access, within.join('/')]]));
    expect([...rows.keys()]).toEqual([
      'Bagger.Weight',
      'Bagger.Bags',
      'Bagger.Gaps[0]',
      'Bagger.Gaps[1]',
      'Bagger.Gaps[2]',
      'Bagger.Jaw.Temp',
      'Bagger.Jaw.Closed',
      'Film.Left',
      'Film.Mode',
      'Film.Rolls[0][0]',
      'Film.Rolls[0][1]',
      'Film.Rolls[1][0]',
      'Film.Rolls[1][1]',
      'Film.Cutter.Temp',
      'Film.Cutter.Closed',
      'Film.Cutter.Length',
    ]);
    expect(rows.get('Bagger.Jaw.Temp')).toEqual(['nsu=urn:quern-hollow:bagger;s=Bagger#.Jaw.Temp', 'REAL', 'R', 'BaggerType/JawType']);
    expect(rows.get('Film.Cutter.Length')).toEqual(['nsu=urn:quern-hollow:bagger;i=4711#.Length', 'LREAL', 'R', 'LongJawType']);
    expect(rows.get('Film.Rolls[1][0]')).toEqual(['nsu=urn:quern-hollow:bagger;s=Film.Rolls#[1][0]', 'DINT', 'RW', '']);
    expect(list.rows.find(({ cells }) => cells.name === 'Film.Left')?.cells).toMatchObject({
      unit: 'm',
      low: '0',
      high: '450.5',
      access: 'R',
      comment: 'Film on the roll',
    });
    expect(list.rows.find(({ cells }) => cells.name === 'Film.Mode')?.cells.enumeration).toBe('0=Idle; 1=Fills; 4=Seals');
  });

  test('is told from other XML, behind a note on its licence too', () => {
    expect([looksLikeXml(BAGGER), looksLikeNodeSet(BAGGER), looksLikeNodeSet('<project><UANodes/></project>')]).toEqual([true, true, false]);
    const read = readAny(new TextEncoder().encode(`<!-- ${'x'.repeat(9000)} -->\n${BAGGER.replace(/^<\?xml.*?\?>\n/, '')}`), {});
    expect(read.ok && [read.value.format, read.value.rows.length]).toEqual(['nodeset', 16]);
  });

  test('which describes types alone says so: only the server has the instances', () => {
    expect(readNodeSet(fileOf(nodesets.machineTool)).problems).toMatchObject([{ code: 'no-rows' }]);
  });

  test('that breaks off keeps what could be read, with the place; one with entities is refused', () => {
    const cut = readNodeSet(BAGGER.slice(0, BAGGER.indexOf('<UAVariable NodeId="ns=1;s=Film.Rolls"')));
    expect(cut.problems[0]).toMatchObject({ code: 'xml', place: expect.stringContaining('line ') as unknown as string });
    expect(cut.rows.some(({ cells }) => cells.name === 'Bagger.Weight')).toBe(true);
    const harmful = BAGGER.replace('?>\n', '?>\n<!DOCTYPE UANodeSet [<!ENTITY a SYSTEM "file:///etc/hostname">]>\n');
    expect(readNodeSet(harmful)).toMatchObject({ rows: [], problems: [{ code: 'doctype' }] });
  });

  test('in which nodes lead back to themselves ends', () => {
    const looped = BAGGER.replace(
      '<UAVariable NodeId="ns=1;s=Film.Left"',
      '<UAObject NodeId="ns=1;s=Loop" BrowseName="1:Loop"><References><Reference ReferenceType="Organizes" IsForward="false">ns=1;s=Film</Reference><Reference ReferenceType="Organizes">ns=1;s=Film</Reference></References></UAObject>$&',
    );
    expect(readNodeSet(looped).rows).toHaveLength(16);
  });

  test('names a variable whose type another file describes, and why it has none', () => {
    const other = BAGGER.replace('DataType="ns=1;i=3003"', 'DataType="ns=1;i=9999"');
    const row = readNodeSet(other).rows.find(({ cells }) => cells.name === 'Film.Mode');
    expect(row).toMatchObject({ cells: { type: '' }, problems: [{ code: 'unknown-type' }] });
  });
});

describe('the node set of the standard', () => {
  const standard = rootOf(fileOf(nodesets.standard));

  test('has the simple types stand on the built-in types that are assumed here', () => {
    const types = new Map(standard.children.filter(({ name }) => name === 'UADataType').map((node) => [node.attributes.NodeId ?? '', node]));
    const chain = (id: string): string[] => {
      const above = all(types.get(id), 'References', 'Reference').find(
        ({ attributes }) => attributes.ReferenceType === 'HasSubtype' && attributes.IsForward === 'false',
      );
      return [types.get(id)?.attributes.BrowseName ?? '', ...(above ? chain(above.text.trim()) : [])];
    };
    expect(['i=288', 'i=289', 'i=290', 'i=294', 'i=295', 'i=29', 'i=9'].map((id) => chain(id).slice(0, 2).join(' of '))).toEqual([
      'IntegerId of UInt32',
      'Counter of UInt32',
      'Duration of Double',
      'UtcTime of DateTime',
      'LocaleId of String',
      'Enumeration of BaseDataType',
      'UInt64 of UInteger',
    ]);
    // IEC 62541-6, 5.2.4: an enumeration is coded as an Int32.
    expect(chain('i=6').slice(0, 2)).toEqual(['Int32', 'Integer']);
  });

  test('is read whole, and nothing of it is taken for a part of the process', () => {
    expect(variablesOfNodeSet(standard)).toEqual([]);
    expect(child(standard, 'Aliases')?.children.length).toBeGreaterThan(50);
  });
});
