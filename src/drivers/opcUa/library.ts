/** node-opcua, loaded when the first link needs it: it takes a second or two. */
import type * as NodeOpcUa from 'node-opcua';

export type Library = typeof NodeOpcUa;
export type UaSession = NodeOpcUa.ClientSession;
export type UaValue = NodeOpcUa.DataValue;

let loading: Promise<Library> | null = null;

export function loadLibrary(): Promise<Library> {
  loading ??= import('node-opcua').then((library) => {
    // Its names are chains of getters, too slow to go through for every value: they are looked up once.
    const loaded = { ...((library as { readonly default?: Library }).default ?? library) };
    // Its own words go to nobody: what matters is told by the states of the link.
    loaded.setDebugLogger(() => undefined);
    loaded.setWarningLogger(() => undefined);
    loaded.setErrorLogger(() => undefined);
    return loaded;
  });
  return loading;
}
