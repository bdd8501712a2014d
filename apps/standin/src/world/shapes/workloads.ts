import { REVISION_ANNOTATION } from '../../wire-names.ts';
import { uidOf } from '../chance.ts';
import { type ApiObject, iso, managed } from '../objects.ts';
import type { WorkloadPlan } from '../scenario/index.ts';
import { ownerReference, podTemplate } from './pods.ts';

export function deploymentShape({
  plan,
  seed,
  createdAt,
  image,
  revision,
}: {
  readonly plan: WorkloadPlan;
  readonly seed: string;
  readonly createdAt: number;
  readonly image: string;
  readonly revision: number;
}): ApiObject {
  return {
    metadata: {
      name: plan.name,
      namespace: plan.namespace,
      uid: uidOf(`${seed} deployment ${plan.namespace}/${plan.name}`),
      resourceVersion: '',
      generation: revision,
      creationTimestamp: iso(createdAt),
      labels: { app: plan.name },
      annotations: { [REVISION_ANNOTATION]: String(revision) },
      managedFields: [managed('harbour-delivery', createdAt)],
    },
    spec: {
      replicas: plan.replicas,
      selector: { matchLabels: { app: plan.name } },
      strategy: { type: 'RollingUpdate', rollingUpdate: { maxSurge: 0, maxUnavailable: 2 } },
      progressDeadlineSeconds: 600,
      template: podTemplate(plan, image),
    },
    status: {},
  };
}

export function replicaSetShape({
  plan,
  deployment,
  hash,
  createdAt,
  image,
  replicas,
}: {
  readonly plan: WorkloadPlan;
  readonly deployment: ApiObject;
  readonly hash: string;
  readonly createdAt: number;
  readonly image: string;
  readonly replicas: number;
}): ApiObject {
  const name = `${plan.name}-${hash}`;
  const template = podTemplate(plan, image);
  const labels = { app: plan.name, 'pod-template-hash': hash };
  return {
    metadata: {
      name,
      namespace: plan.namespace,
      uid: uidOf(`${deployment.metadata.uid} ${hash} ${createdAt}`),
      resourceVersion: '',
      generation: 1,
      creationTimestamp: iso(createdAt),
      labels,
      annotations: { ...deployment.metadata.annotations },
      ownerReferences: [ownerReference({ kind: 'Deployment', name: plan.name, uid: deployment.metadata.uid })],
    },
    spec: { replicas, selector: { matchLabels: labels }, template: { ...template, metadata: { labels } } },
    status: {},
  };
}

export function daemonSetShape(plan: WorkloadPlan, seed: string, createdAt: number): ApiObject {
  return {
    metadata: {
      name: plan.name,
      namespace: plan.namespace,
      uid: uidOf(`${seed} daemonset ${plan.namespace}/${plan.name}`),
      resourceVersion: '',
      generation: 1,
      creationTimestamp: iso(createdAt),
      labels: { app: plan.name },
    },
    spec: {
      selector: { matchLabels: { app: plan.name } },
      template: podTemplate(plan, plan.image),
      updateStrategy: { type: 'RollingUpdate' },
    },
    status: {},
  };
}

export function statefulSetShape(plan: WorkloadPlan, seed: string, createdAt: number): ApiObject {
  return {
    metadata: {
      name: plan.name,
      namespace: plan.namespace,
      uid: uidOf(`${seed} statefulset ${plan.namespace}/${plan.name}`),
      resourceVersion: '',
      generation: 1,
      creationTimestamp: iso(createdAt),
      labels: { app: plan.name },
      managedFields: [managed('harbour-delivery', createdAt)],
    },
    spec: {
      replicas: plan.replicas,
      serviceName: plan.name,
      selector: { matchLabels: { app: plan.name } },
      template: podTemplate(plan, plan.image),
      volumeClaimTemplates: plan.volume
        ? [
            {
              metadata: { name: 'data' },
              spec: { accessModes: ['ReadWriteOnce'], resources: { requests: { storage: plan.volume.size } } },
            },
          ]
        : [],
    },
    status: {},
  };
}

export function cronJobShape(plan: WorkloadPlan, seed: string, createdAt: number): ApiObject {
  return {
    metadata: {
      name: plan.name,
      namespace: plan.namespace,
      uid: uidOf(`${seed} cronjob ${plan.namespace}/${plan.name}`),
      resourceVersion: '',
      generation: 1,
      creationTimestamp: iso(createdAt),
      labels: { app: plan.name },
      managedFields: [managed('harbour-delivery', createdAt)],
    },
    spec: {
      schedule: plan.schedule,
      concurrencyPolicy: 'Forbid',
      successfulJobsHistoryLimit: 3,
      failedJobsHistoryLimit: 3,
      suspend: false,
      jobTemplate: { spec: { backoffLimit: 1, template: podTemplate(plan, plan.image) } },
    },
    status: {},
  };
}

export function jobShape(plan: WorkloadPlan, cron: ApiObject, createdAt: number): ApiObject {
  const name = `${plan.name}-${Math.floor(createdAt / 60_000)}`;
  return {
    metadata: {
      name,
      namespace: plan.namespace,
      uid: uidOf(`${cron.metadata.uid} job ${createdAt}`),
      resourceVersion: '',
      generation: 1,
      creationTimestamp: iso(createdAt),
      labels: { app: plan.name },
      ownerReferences: [ownerReference({ kind: 'CronJob', name: plan.name, uid: cron.metadata.uid })],
    },
    spec: { backoffLimit: 1, completions: 1, parallelism: 1, template: podTemplate(plan, plan.image) },
    status: { startTime: iso(createdAt), active: 1 },
  };
}
