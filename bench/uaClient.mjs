/**
 * A bare client of node-opcua that does what the product is measured by, and no more: observes nodes and counts their changes, or
 * crawls the address space. Prints what it measured as JSON. node uaClient.mjs PORT observe|crawl COUNT SECONDS
 */
import {
  AttributeIds,
  ClientMonitoredItemGroup,
  OPCUAClient,
  setDebugLogger,
  setErrorLogger,
  setWarningLogger,
  TimestampsToReturn,
} from 'node-opcua';

const [port, what, count, seconds] = process.argv.slice(2);
for (const set of [setDebugLogger, setWarningLogger, setErrorLogger]) set(() => undefined);
const client = OPCUAClient.create({ endpointMustExist: false });
await client.connect(`opc.tcp://127.0.0.1:${port}`);
const session = await client.createSession();
const namespaces = await session.readNamespaceArray();
const ns = namespaces.indexOf('urn:bench:load');

if (what === 'observe') {
  const subscription = await session.createSubscription2({
    requestedPublishingInterval: 250,
    requestedMaxKeepAliveCount: 20,
    requestedLifetimeCount: 100,
    maxNotificationsPerPublish: 0,
    publishingEnabled: true,
    priority: 1,
  });
  let changes = 0;
  for (let from = 0; from < Number(count); from += 1000) {
    const items = Array.from({ length: Math.min(1000, Number(count) - from) }, (_, i) => ({
      nodeId: `ns=${ns};s=v${from + i}`,
      attributeId: AttributeIds.Value,
    }));
    const group = ClientMonitoredItemGroup.create(
      subscription,
      items,
      { samplingInterval: 1000, queueSize: 1, discardOldest: true },
      TimestampsToReturn.Both,
    );
    group.on('changed', (_item, value) => void (changes += value.value.value === null ? 0 : 1));
    await new Promise((resolve) => group.on('initialized', resolve));
  }
  await new Promise((resolve) => setTimeout(resolve, 4000));
  const [before, counted] = [process.cpuUsage(), changes];
  await new Promise((resolve) => setTimeout(resolve, Number(seconds) * 1000));
  const used = process.cpuUsage(before);
  console.log(JSON.stringify({ cpuMs: (used.user + used.system) / 1000, changes: changes - counted }));
} else {
  const begun = performance.now();
  let found = 0;
  const crawl = async (nodeId) => {
    const { references } = await session.browse({
      nodeId,
      referenceTypeId: 'HierarchicalReferences',
      includeSubtypes: true,
      browseDirection: 0,
      nodeClassMask: 3,
      resultMask: 63,
    });
    const own = (references ?? []).filter((r) => r.nodeId.namespace === ns);
    const variables = own.filter((r) => r.nodeClass === 2).map((r) => r.nodeId);
    found += variables.length;
    // What a list needs to know of each: type, rank, access of the server and of the user, description, dimensions; and its properties.
    const { DataType, ValueRank, AccessLevel, UserAccessLevel, Description, ArrayDimensions } = AttributeIds;
    const asked = [DataType, ValueRank, AccessLevel, UserAccessLevel, Description, ArrayDimensions];
    if (variables.length > 0) await session.read(variables.flatMap((id) => asked.map((attributeId) => ({ nodeId: id, attributeId }))));
    if (variables.length > 0)
      await session.browse(
        variables.map((id) => ({
          nodeId: id,
          referenceTypeId: 'HasProperty',
          includeSubtypes: true,
          browseDirection: 0,
          nodeClassMask: 2,
          resultMask: 63,
        })),
      );
    for (const r of own) if (r.nodeClass === 1) await crawl(r.nodeId);
  };
  await crawl('i=85');
  console.log(JSON.stringify({ ms: performance.now() - begun, found }));
}
await client.disconnect();
process.exit(0);
