/** The arrows of the layers: each may use only those under it. See docs/architecture.md. */
const core = '^src/core';
const describe = '^src/drivers/(contract|descriptions|[^/]+/describe)\\.ts$';
/** What the settings of a project come to: pure, and shared by the server and the pages. */
const mapping = '^src/mapping';
/** The contract and what stands beside the protocols' folders. */
const anyDriver = '^src/drivers/[^/]+\\.ts$';
const only = (name, from, allowed) => ({
  name,
  severity: 'error',
  comment: `${name}: imports outside its layers`,
  from: { path: from },
  to: { path: '^src/', pathNot: allowed },
});

/** @type {import('dependency-cruiser').IConfiguration} */
export default {
  forbidden: [
    only('core-alone', core, [core]),
    only('drivers-over-core', '^src/drivers', [core, '^src/drivers']),
    only('describe-is-pure', '^src/drivers/[^/]+/(describe|settings|notation|traffic|memory|indexed|signature|waysToWrite)\\.ts$', [
      core,
      describe,
      '^src/drivers/(contract|describedBy|networkSettings)\\.ts$',
      '^src/drivers/[^/]+/(settings|notation|traffic|memory|indexed|signature|waysToWrite)\\.ts$',
    ]),
    only('mapping-is-pure', mapping, [core, describe, mapping]),
    only('store-over-core', '^src/store', [core, '^src/store']),
    only('model-over-core-and-drivers', '^src/model', [core, '^src/model', describe, mapping]),
    {
      name: 'no-protocol-above-drivers',
      severity: 'error',
      comment: 'What a protocol has of its own reaches what is above the drivers through the contract alone',
      from: { path: '^src/(mapping|model|runtime|services|store|ui|app|server|panelHost)' },
      to: { path: '^src/(core/(modbus|opcua|cip)|drivers/(modbus|opcUa|cip|mqtt))/', pathNot: describe },
    },
    // Above the drivers nothing knows which protocol it is: only what stands beside their folders is used.
    only('runtime', '^src/runtime', [core, anyDriver, mapping, '^src/model', '^src/runtime']),
    only('services', '^src/services', [core, anyDriver, mapping, '^src/model', '^src/store', '^src/runtime', '^src/services']),
    only('ui-uses-core-and-descriptions', '^src/ui', [core, describe, mapping, '^src/ui']),
    {
      ...only('app-is-thin', '^src/app', [core, describe, mapping, '^src/ui', '^src/app']),
      to: { path: '^src/', pathNot: [core, describe, mapping, '^src/ui', '^src/app'], dependencyTypesNot: ['type-only'] },
    },
    only('standins-stand-alone', '^src/standins', ['^src/standins']),
    { name: 'core-has-no-io', severity: 'error', from: { path: core }, to: { dependencyTypes: ['core'] } },
    { name: 'core-has-no-react', severity: 'error', from: { path: core }, to: { path: 'node_modules/(react|next|ws|@electric-sql)' } },
    {
      name: 'sockets-only-in-drivers',
      severity: 'error',
      from: { path: '^src', pathNot: '^src/(drivers|server|panelHost|standins)' },
      to: { path: '^(node:)?(net|dgram|tls)$', dependencyTypes: ['core'] },
    },
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } } },
  ],
  options: {
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: 'specify',
    doNotFollow: { path: 'node_modules' },
    includeOnly: undefined,
  },
};
