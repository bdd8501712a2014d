import type {
  AutoscalerObject,
  ClaimObject,
  DisruptionBudgetObject,
  Followed,
  LimitRangeObject,
  QuotaObject,
  VolumeObject,
} from './objects.ts';
import { quantityNumber } from './quantity.ts';
import { common, conditions } from './readCommon.ts';
import * as wire from './wireReader.ts';

type Wire = wire.Wire;

/** What bounds workloads: volumes and claims, quotas, limit ranges, autoscalers, disruption budgets. */

export function readVolume(object: Wire): VolumeObject {
  const spec = wire.child(object, 'spec');
  const claim = wire.child(spec, 'claimRef');
  const name = wire.text(claim, 'name');
  return {
    kind: 'persistent volume',
    ...common(object),
    capacity: quantityNumber(wire.texts(spec, 'capacity')['storage']),
    phase: wire.text(wire.child(object, 'status'), 'phase'),
    claim: name === '' ? null : { namespace: wire.text(claim, 'namespace'), name },
    storageClass: wire.text(spec, 'storageClassName'),
    reclaim: wire.text(spec, 'persistentVolumeReclaimPolicy'),
  };
}

export function readClaim(object: Wire): ClaimObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  return {
    kind: 'volume claim',
    ...common(object),
    phase: wire.text(status, 'phase'),
    volume: wire.optionalText(spec, 'volumeName'),
    requested: quantityNumber(wire.texts(wire.child(spec, 'resources'), 'requests')['storage']),
    capacity: quantityNumber(wire.texts(status, 'capacity')['storage']),
    storageClass: wire.text(spec, 'storageClassName'),
  };
}

export function readQuota(object: Wire): QuotaObject {
  const status = wire.child(object, 'status');
  const used = wire.texts(status, 'used');
  const asked = wire.texts(wire.child(object, 'spec'), 'hard');
  return {
    kind: 'quota',
    ...common(object),
    rows: Object.entries(asked)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .flatMap(([resource, text]) => {
        const hard = quantityNumber(text);
        return hard === null ? [] : [{ resource, hard, used: quantityNumber(used[resource]) }];
      }),
  };
}

export function readLimitRange(object: Wire): LimitRangeObject {
  return {
    kind: 'limit range',
    ...common(object),
    rows: wire.list(wire.child(object, 'spec'), 'limits').flatMap((limit) => {
      const [least, most, request, most_] = ['min', 'max', 'defaultRequest', 'default'].map((field) =>
        wire.texts(limit, field),
      ) as [Record<string, string>, Record<string, string>, Record<string, string>, Record<string, string>]; // four fields, four maps
      const resources = new Set([least, most, request, most_].flatMap((map) => Object.keys(map)));
      return [...resources].sort().map((resource) => ({
        of: wire.text(limit, 'type').toLowerCase(),
        resource,
        least: least[resource] ?? null,
        most: most[resource] ?? null,
        request: request[resource] ?? null,
        limit: most_[resource] ?? null,
      }));
    }),
  };
}

/** An entry of what an autoscaler follows, or of what it sees: both are laid out alike. */
function followed(metric: Wire): { readonly name: string; readonly own: Wire } {
  const kind = wire.text(metric, 'type');
  const own = wire.child(metric, kind.charAt(0).toLowerCase() + kind.slice(1));
  return { name: wire.text(own, 'name') || wire.text(wire.child(own, 'metric'), 'name') || kind, own };
}

/** What it sees of what it follows, as far as both are told in the same unit. */
function seenBy(aims: readonly Wire[], figures: readonly Wire[]): Followed[] {
  const current = new Map(
    figures.map((figure) => {
      const { name, own } = followed(figure);
      return [name, wire.child(own, 'current')];
    }),
  );
  return aims.flatMap((metric): Followed[] => {
    const { name, own } = followed(metric);
    const aim = wire.child(own, 'target');
    const now = current.get(name);
    if (!now) return [];
    const share = wire.optionalCount(aim, 'averageUtilization');
    const value = wire.optionalCount(now, 'averageUtilization');
    if (share !== null) return value === null || share <= 0 ? [] : [{ name, value, aim: share, share: true }];
    for (const field of ['averageValue', 'value']) {
      const wanted = quantityNumber(wire.text(aim, field));
      const seen = quantityNumber(wire.text(now, field));
      if (wanted !== null && seen !== null && wanted > 0) return [{ name, value: seen, aim: wanted, share: false }];
    }
    return [];
  });
}

export function readAutoscaler(object: Wire): AutoscalerObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  const target = wire.child(spec, 'scaleTargetRef');
  return {
    kind: 'autoscaler',
    ...common(object),
    target: { kind: wire.text(target, 'kind'), name: wire.text(target, 'name') },
    least: wire.count(spec, 'minReplicas', 1),
    most: wire.count(spec, 'maxReplicas'),
    current: wire.count(status, 'currentReplicas'),
    desired: wire.count(status, 'desiredReplicas'),
    lastScaledAt: wire.time(status, 'lastScaleTime'),
    follows: wire.list(spec, 'metrics').map((metric) => {
      const { name, own } = followed(metric);
      const aim = wire.child(own, 'target');
      const share = wire.optionalCount(aim, 'averageUtilization');
      return share === null
        ? `${name} at ${wire.text(aim, 'averageValue') || wire.text(aim, 'value')}`
        : `${name} at ${share} % of requests`;
    }),
    seen: seenBy(wire.list(spec, 'metrics'), wire.list(status, 'currentMetrics')),
    // of what holds, the message is a figure of the moment
    conditions: conditions(status).map((condition) =>
      condition.status === 'false' && condition.type !== 'ScalingLimited' ? condition : { ...condition, message: '' },
    ),
  };
}

const countOrShare = (spec: Wire, field: string): string | null => {
  const value = spec[field];
  return typeof value === 'number' ? String(value) : wire.optionalText(spec, field);
};

export function readDisruptionBudget(object: Wire): DisruptionBudgetObject {
  const spec = wire.child(object, 'spec');
  const status = wire.child(object, 'status');
  return {
    kind: 'disruption budget',
    ...common(object),
    selector: wire.texts(wire.child(spec, 'selector'), 'matchLabels'),
    leastAvailable: countOrShare(spec, 'minAvailable'),
    mostUnavailable: countOrShare(spec, 'maxUnavailable'),
    healthy: wire.count(status, 'currentHealthy'),
    wanted: wire.count(status, 'desiredHealthy'),
    allowed: wire.count(status, 'disruptionsAllowed'),
  };
}
