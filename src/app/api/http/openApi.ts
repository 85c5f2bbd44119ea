/** The OpenAPI 3.1 document, made from the operations and their Yup schemas. */
import { convertSchema } from '@sodaru/yup-to-json-schema';
import { ENTITY_KINDS, ENTITY_SCHEMAS, KINDS, type EntityKind } from '@/core/project/entities.ts';
import { fieldsOf } from '@/core/project/kinds/kind.ts';
import type { Operation } from './operation.ts';
import { OPERATIONS } from './operations.ts';

export function openApiDocument(): Record<string, unknown> {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const operation of OPERATIONS) paths[operation.path] = { ...paths[operation.path], [operation.method]: described(operation) };
  return {
    openapi: '3.1.0',
    info: { title: 'Mill Latch', version: '1', description: 'What the interface itself uses. Live values come over a WebSocket at /api/v1/live.' },
    servers: [{ url: '/api/v1' }],
    paths,
    components: {
      schemas: {
        ...Object.fromEntries(ENTITY_KINDS.map((kind) => [kind, entitySchema(kind)])),
        Problem: {
          type: 'object',
          description: 'RFC 9457 problem document',
          required: ['type', 'title', 'status', 'code'],
          properties: {
            type: { type: 'string' },
            title: { type: 'string', description: 'what is wrong, in one sentence' },
            status: { type: 'integer' },
            code: { type: 'string', description: 'stable word for programs' },
            detail: { type: 'string', description: 'what to try' },
            place: { type: 'string', description: 'field, row or address' },
          },
        },
      },
    },
  };
}

/** What a kind of thing is made of, as a command sends it and the project answers it. */
function entitySchema(kind: EntityKind): Record<string, unknown> {
  const schema = convertSchema(ENTITY_SCHEMAS[kind]) as { readonly properties?: Readonly<Record<string, object>> };
  const properties = fieldsOf(KINDS[kind]).map(([name, { label }]) => [name, { title: label, ...schema.properties?.[name] }]);
  return { ...schema, properties: Object.fromEntries(properties) };
}

function described({ path, method, summary, answer, body, query, takesFile, givesFile }: Operation): Record<string, unknown> {
  const inPath = [...path.matchAll(/\{(\w+)\}/g)].map((m) => ({
    name: m[1],
    in: 'path',
    required: true,
    schema: { type: 'string', format: 'uuid' },
  }));
  const inQuery = Object.entries(query ?? {}).map(([name, description]) => ({
    name,
    in: 'query',
    required: false,
    description,
    schema: { type: name === 'limit' || name === 'doubtful' ? 'integer' : 'string' },
  }));
  return {
    summary,
    operationId: `${method}${path.replace(/[^a-z]+(\w)/gi, (_all, letter: string) => letter.toUpperCase()).replace(/\W/g, '')}`,
    parameters: [...inPath, ...inQuery],
    ...(body ? { requestBody: { required: true, content: { 'application/json': { schema: convertSchema(body) } } } } : {}),
    ...(takesFile ? { requestBody: { required: true, content: { 'application/zip': { schema: {} } } } } : {}),
    responses: {
      '200': {
        description: answer,
        content: { [typeof givesFile === 'string' ? givesFile : givesFile ? 'application/zip' : 'application/json']: { schema: {} } },
      },
      default: {
        description: 'What is wrong and what to try',
        content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/Problem' } } },
      },
    },
  };
}
