// Every route of the API with the schemas of its path, query and body, as the server's own decorators have them; and values
// that fit a schema, or nearly do.
import { z } from 'zod';

const [BODY, QUERY, PARAM] = ['3', '4', '5'];
const METHODS = ['GET', 'POST', 'PUT', 'DELETE', 'PATCH'];

/** All controllers of a module and of those that it imports. */
function controllersOf(module, seen = new Set()) {
  const own = module?.module ?? module;
  if (own === undefined || seen.has(own)) return [];
  seen.add(own);
  const imports = [...(Reflect.getMetadata('imports', own) ?? []), ...(module.imports ?? [])];
  const controllers = [...(Reflect.getMetadata('controllers', own) ?? []), ...(module.controllers ?? [])];
  return [...new Set([...controllers, ...imports.flatMap((one) => controllersOf(one, seen))])];
}

export async function routes() {
  await import('../apps/server/dist/keeping/tables/database.js'); // brings the decorators' metadata along
  const { AppModule } = await import('../apps/server/dist/app.module.js');
  const { ServerLog } = await import('../apps/server/dist/ground/platform/logger.js');
  const config = { databaseUrl: 'postgres://u:p@127.0.0.1:1/z', dataDir: '/nowhere', allowAddresses: [] };
  return controllersOf(AppModule.for(config, ServerLog.create('silent'))).flatMap((controller) =>
    Object.getOwnPropertyNames(controller.prototype).flatMap((name) => {
      const handler = Object.getOwnPropertyDescriptor(controller.prototype, name)?.value;
      const path = typeof handler === 'function' ? Reflect.getMetadata('path', handler) : undefined;
      if (path === undefined || name === 'constructor') return [];
      const given = Object.entries(Reflect.getMetadata('__routeArguments__', controller, name) ?? {});
      const of = (kind) => given.filter(([key, { schema }]) => key.startsWith(`${kind}:`) && schema);
      const json = (schema) => z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' });
      const base = Reflect.getMetadata('path', controller);
      return [
        {
          method: METHODS[Reflect.getMetadata('method', handler)],
          path: `/${[base, path]
            .join('/')
            .replaceAll(/\/+/g, '/')
            .replace(/^\/|\/$/g, '')}`,
          params: Object.fromEntries(of(PARAM).map(([, { data, schema }]) => [data, json(schema)])),
          query: of(QUERY).map(([, { schema }]) => json(schema)),
          body: of(BODY).map(([, { schema }]) => json(schema))[0] ?? null,
        },
      ];
    }),
  );
}

/** A value that fits a schema, as far as one can tell from it; `known` are values that mean something here. */
export function fitting(schema, random, known, name = '', depth = 0) {
  const { below, pick, chance } = random;
  if (depth > 8 || schema === undefined || schema === true) return pick(known.texts);
  if (schema.const !== undefined) return schema.const;
  if (schema.enum) return pick(schema.enum);
  const any = schema.anyOf ?? schema.oneOf;
  if (any) return fitting(pick(any), random, known, name, depth + 1);
  if (schema.allOf) return fitting(schema.allOf[0], random, known, name, depth + 1);
  if (schema.default !== undefined && chance(0.5)) return schema.default;
  const type = Array.isArray(schema.type) ? pick(schema.type) : schema.type;
  switch (type) {
    case 'object': {
      const out = {};
      const required = new Set(schema.required ?? []);
      for (const [key, own] of Object.entries(schema.properties ?? {}))
        if (required.has(key) || chance(0.6)) out[key] = fitting(own, random, known, key, depth + 1);
      if (schema.additionalProperties && typeof schema.additionalProperties === 'object')
        for (let i = below(3); i > 0; i--)
          out[pick(known.texts)] = fitting(schema.additionalProperties, random, known, '', depth + 1);
      return out;
    }
    case 'array':
      return Array.from({ length: below(4) }, () => fitting(schema.items, random, known, name, depth + 1));
    case 'number':
    case 'integer': {
      if (/^(from|to|at|shift|before)/.test(name)) return pick(known.times());
      const low = Math.max(schema.minimum ?? schema.exclusiveMinimum ?? 0, -1e6);
      const high = Math.min(schema.maximum ?? schema.exclusiveMaximum ?? low + 100, low + 1e6);
      return Math.floor(low + random.next() * (high - low));
    }
    case 'boolean':
      return chance(0.5);
    case 'null':
      return null;
    default:
      if (/^(from|to|shift)$/.test(name)) return String(pick(known.times()));
      return name in known.named ? pick(known.named[name]) : pick(known.texts);
  }
}
