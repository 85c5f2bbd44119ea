/** Built-in types of OPC UA (IEC 62541-6, table 1) and the elementary types of IEC 61131-3 that hold their values (IEC 62541-100 has the same pairs). */
import type { DataType } from '../value/dataType.ts';

export type BuiltIn =
  | 'Boolean'
  | 'SByte'
  | 'Byte'
  | 'Int16'
  | 'UInt16'
  | 'Int32'
  | 'UInt32'
  | 'Int64'
  | 'UInt64'
  | 'Float'
  | 'Double'
  | 'String'
  | 'DateTime'
  | 'LocalizedText';

const TYPES: Readonly<Record<BuiltIn, string>> = {
  Boolean: 'BOOL',
  SByte: 'SINT',
  Byte: 'USINT',
  Int16: 'INT',
  UInt16: 'UINT',
  Int32: 'DINT',
  UInt32: 'UDINT',
  Int64: 'LINT',
  UInt64: 'ULINT',
  Float: 'REAL',
  Double: 'LREAL',
  String: 'STRING(80)',
  DateTime: 'DATE_AND_TIME',
  LocalizedText: 'STRING(80)',
};
const REALS: ReadonlySet<string> = new Set(['Float', 'Double']);
const INTEGERS: ReadonlySet<string> = new Set(['SByte', 'Byte', 'Int16', 'UInt16', 'Int32', 'UInt32', 'Int64', 'UInt64']);
const TEXTS: ReadonlySet<string> = new Set(['String', 'LocalizedText', 'DateTime', 'Guid', 'ByteString', 'QualifiedName', 'NodeId', 'XmlElement']);

/** The type of a tag that holds what a variable holds; null where none does. */
export function typeOfBuiltIn(name: string): string | null {
  return TYPES[name as BuiltIn] ?? null;
}

/** Whether a value of a built-in type can be one of a tag's type: a number with a fraction is no integer, though it may have none just now. */
export function canHold(type: DataType, builtIn: string): boolean {
  switch (type.kind) {
    case 'boolean':
      return builtIn === 'Boolean';
    case 'text':
      return TEXTS.has(builtIn);
    case 'real':
      return REALS.has(builtIn);
    case 'integer':
      return INTEGERS.has(builtIn) || (type.time?.shows === 'dateTime' && builtIn === 'DateTime');
  }
}
