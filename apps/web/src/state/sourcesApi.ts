import {
  CensusAnswer,
  ConnectionAnswer,
  type ConnectionChange,
  type ConnectionInput,
  ConnectionTest,
  CoverageAnswer,
  DependantsAnswer,
  DropPreview,
  type DropRuleDocument,
  type EndpointDocument,
  GivenAnswer,
  HistoryAnswer,
  ImportAnswer,
  type ImportQuery,
  ImportsAnswer,
  MetricsAnswer,
  NewPushToken,
  PodPortsAnswer,
  type PodPortsInput,
  type PushDocument,
  PushKeysAnswer,
  RawPage,
  type ScoutDocument,
  ScoutPreview,
  ScoutsAnswer,
  SourcesAnswer,
  TryAnswer,
  VitalsAnswer,
  type VitalsDocument,
} from '@zetopsis/contract';
import { z } from 'zod';
import { api } from './api.ts';

type Input = z.input<typeof ConnectionInput>;
type Change = z.input<typeof ConnectionChange>;
export type Endpoint = z.input<typeof EndpointDocument>;
export type DropRule = z.infer<typeof DropRuleDocument>;
export type Scout = z.input<typeof ScoutDocument>;
// answers are whole: nothing in them is left to a default
const whole = <S extends z.ZodType>(schema: S) => schema as unknown as z.ZodType<z.output<S>, z.output<S>>;
const Given = z.object({ given: z.array(GivenAnswer) });
type Given = z.infer<typeof Given>;
const MadeKey = z.object({ made: NewPushToken.nullable() });
type MadeKey = z.infer<typeof MadeKey>;

const sourcesApi = api.injectEndpoints({
  endpoints: (build) => ({
    sources: build.query<SourcesAnswer, void>({
      query: () => 'sources',
      responseSchema: SourcesAnswer,
      providesTags: ['sources', 'samples', 'inventory'],
    }),
    rawPage: build.query<RawPage, number>({ query: (id) => `endpoints/${id}/page`, responseSchema: RawPage }),
    testConnection: build.mutation<ConnectionTest, Change & { connectionId?: string }>({
      query: (body) => ({ url: 'connections/test', method: 'POST', body }),
      responseSchema: ConnectionTest,
    }),
    addConnection: build.mutation<ConnectionAnswer, Input>({
      query: (body) => ({ url: 'connections', method: 'POST', body }),
      responseSchema: ConnectionAnswer,
      invalidatesTags: ['sources', 'inventory'],
    }),
    changeConnection: build.mutation<ConnectionAnswer, { id: string; change: Change }>({
      query: ({ id, change }) => ({ url: `connections/${id}`, method: 'PATCH', body: change }),
      responseSchema: ConnectionAnswer,
      invalidatesTags: ['sources'],
    }),
    removeConnection: build.mutation<null, string>({
      query: (id) => ({ url: `connections/${id}`, method: 'DELETE' }),
      invalidatesTags: ['sources', 'inventory', 'samples', 'alerts'],
    }),
    history: build.query<HistoryAnswer, number>({
      query: (id) => `endpoints/${id}/history`,
      responseSchema: HistoryAnswer,
      providesTags: ['sources'],
    }),
    endpointMetrics: build.query<MetricsAnswer, { id: number; find: string }>({
      query: ({ id, find }) => ({ url: `endpoints/${id}/metrics`, params: find === '' ? {} : { find } }),
      responseSchema: MetricsAnswer,
    }),
    given: build.query<Given, void>({ query: () => 'given', responseSchema: whole(Given), providesTags: ['sources'] }),
    tryEndpoint: build.mutation<TryAnswer, { document: Endpoint; secret: string; like?: string }>({
      query: (body) => ({ url: 'given/try', method: 'POST', body }),
      responseSchema: TryAnswer,
    }),
    addEndpoints: build.mutation<Given, { key: string; document: Endpoint; secret: string }[]>({
      query: (endpoints) => ({ url: 'given', method: 'POST', body: { endpoints } }),
      responseSchema: whole(Given),
      invalidatesTags: ['sources'],
    }),
    changeEndpoint: build.mutation<GivenAnswer, { key: string; document: Endpoint; secret: string }>({
      query: ({ key, ...body }) => ({ url: `given/${key}`, method: 'PUT', body }),
      responseSchema: whole(GivenAnswer),
      invalidatesTags: ['sources'],
    }),
    useEndpoint: build.mutation<GivenAnswer, { key: string; use: EndpointDocument['use'] }>({
      query: ({ key, use }) => ({ url: `given/${key}/use`, method: 'PUT', body: { use } }),
      responseSchema: whole(GivenAnswer),
      invalidatesTags: ['sources'],
    }),
    dependants: build.query<DependantsAnswer, string>({
      query: (key) => `given/${key}/dependants`,
      responseSchema: DependantsAnswer,
    }),
    scouts: build.query<ScoutsAnswer, void>({
      query: () => 'scouts',
      responseSchema: whole(ScoutsAnswer),
      providesTags: ['sources', 'inventory'],
    }),
    previewScout: build.mutation<ScoutPreview, Scout>({
      query: (body) => ({ url: 'scouts/preview', method: 'POST', body }),
      responseSchema: ScoutPreview,
    }),
    saveScout: build.mutation<ScoutsAnswer, { key: string; document: Scout; secret: string }>({
      query: ({ key, ...body }) => ({ url: `scouts/${key}`, method: 'PUT', body }),
      responseSchema: whole(ScoutsAnswer),
      invalidatesTags: ['sources'],
    }),
    removeScout: build.mutation<null, string>({
      query: (key) => ({ url: `scouts/${key}`, method: 'DELETE' }),
      invalidatesTags: ['sources'],
    }),
    pushKeys: build.query<PushKeysAnswer, void>({
      query: () => 'push-keys',
      responseSchema: whole(PushKeysAnswer),
      providesTags: ['sources'],
    }),
    savePushKey: build.mutation<MadeKey, { key: string; document: z.input<typeof PushDocument> }>({
      query: ({ key, document }) => ({ url: `push-keys/${key}`, method: 'PUT', body: document }),
      responseSchema: MadeKey,
      invalidatesTags: ['sources'],
    }),
    newPushToken: build.mutation<NewPushToken, string>({
      query: (key) => ({ url: `push-keys/${key}/token`, method: 'POST' }),
      responseSchema: NewPushToken,
      invalidatesTags: ['sources'],
    }),
    removePushKey: build.mutation<null, string>({
      query: (key) => ({ url: `push-keys/${key}`, method: 'DELETE' }),
      invalidatesTags: ['sources'],
    }),
    coverage: build.query<CoverageAnswer, { cluster?: string; only: 'all' | 'unread' }>({
      query: (params) => ({ url: 'coverage', params }),
      responseSchema: CoverageAnswer,
      providesTags: ['sources', 'samples', 'inventory'],
    }),
    census: build.query<CensusAnswer, void>({ query: () => 'census', responseSchema: CensusAnswer }),
    podPorts: build.mutation<PodPortsAnswer, z.input<typeof PodPortsInput>>({
      query: (body) => ({ url: 'pods/ports', method: 'POST', body }),
      responseSchema: PodPortsAnswer,
    }),
    previewDrop: build.mutation<DropPreview, { endpoint: number | null; rule: DropRule }>({
      query: (body) => ({ url: 'census/drop', method: 'POST', body }),
      responseSchema: DropPreview,
    }),
    vitals: build.query<VitalsAnswer, string>({
      query: (cluster) => `vitals/${cluster}`,
      responseSchema: whole(VitalsAnswer),
      providesTags: ['inventory'],
    }),
    tryVitals: build.mutation<VitalsAnswer, { cluster: string; document: VitalsDocument }>({
      query: ({ cluster, document }) => ({ url: `vitals/${cluster}/try`, method: 'POST', body: document }),
      responseSchema: whole(VitalsAnswer),
    }),
    saveVitals: build.mutation<VitalsAnswer, { cluster: string; document: VitalsDocument }>({
      query: ({ cluster, document }) => ({ url: `vitals/${cluster}`, method: 'PUT', body: document }),
      responseSchema: whole(VitalsAnswer),
      invalidatesTags: ['sources', 'samples', 'inventory'],
    }),
    imports: build.query<ImportsAnswer, void>({
      query: () => 'imports',
      responseSchema: ImportsAnswer,
      providesTags: ['sources'],
    }),
    takeImport: build.mutation<ImportAnswer, ImportQuery & { file: File }>({
      query: ({ file, ...params }) => ({
        url: 'imports',
        method: 'POST',
        params,
        body: file,
        // the file as it is, whatever its name says it were
        headers: { 'content-type': 'text/plain' },
      }),
      responseSchema: ImportAnswer,
      invalidatesTags: ['sources', 'samples'],
    }),
    cancelImport: build.mutation<null, number>({
      query: (id) => ({ url: `imports/${id}`, method: 'DELETE' }),
      invalidatesTags: ['sources'],
    }),
  }),
});
export const {
  useVitalsQuery,
  useTryVitalsMutation,
  useSaveVitalsMutation,
  useHistoryQuery,
  useEndpointMetricsQuery,
  useGivenQuery,
  useTryEndpointMutation,
  useAddEndpointsMutation,
  useChangeEndpointMutation,
  useUseEndpointMutation,
  useDependantsQuery,
  useScoutsQuery,
  usePreviewScoutMutation,
  useSaveScoutMutation,
  useRemoveScoutMutation,
  usePushKeysQuery,
  useSavePushKeyMutation,
  useNewPushTokenMutation,
  useRemovePushKeyMutation,
  useCoverageQuery,
  useCensusQuery,
  usePodPortsMutation,
  usePreviewDropMutation,
  useSourcesQuery,
  useRawPageQuery,
  useTestConnectionMutation,
  useAddConnectionMutation,
  useChangeConnectionMutation,
  useRemoveConnectionMutation,
  useImportsQuery,
  useTakeImportMutation,
  useCancelImportMutation,
} = sourcesApi;
