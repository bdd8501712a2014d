import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Query, Req } from '@nestjs/common';
import {
  type DependantsAnswer,
  EndpointInput,
  EndpointsInput,
  type GivenAnswer,
  type HistoryAnswer,
  type IntervalsAnswer,
  IntervalsDocument,
  type MetricsAnswer,
  MetricsQuery,
  type PodPortsAnswer,
  PodPortsInput,
  RowNumber,
  type ScoutDependants,
  ScoutInput,
  type ScoutPreview,
  ScoutPreviewInput,
  type ScoutsAnswer,
  ScoutTake,
  type SeriesAnswer,
  SeriesQuery,
  SourceKey,
  type SourcesAnswer,
  type TryAnswer,
  TryInput,
  UseInput,
} from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { z } from 'zod';
import { Audited, keyed, named, numbered } from '../../ground/guard/action.ts';
import { Seen } from '../../ground/guard/reached.ts';
import { Administrators, type KnownRequest } from '../../ground/guard/route.ts';
import { Clock } from '../../ground/platform/settings.ts';
import { CompactionService } from '../../keeping/store/compaction.service.ts';
import { SamplesService } from '../../keeping/store/samples.service.ts';
import { SpaceService } from '../../keeping/store/space.service.ts';
import { ConnectionsService } from '../connections/connections.service.ts';
import { EndpointAnswersService } from './endpointAnswers.service.ts';
import { EndpointSheetService } from './endpointSheet.service.ts';
import { GivenService } from './given.service.ts';
import { IntervalsService } from './intervals.service.ts';
import { PodPortsService } from './podPorts.service.ts';
import { RemovalService } from './removal.service.ts';
import { ScoutsService } from './scouts.service.ts';

const namesOf = ({ body }: { body: unknown }): string => {
  const read = z.object({ endpoints: z.array(z.object({ key: z.string().max(80) })).max(500) }).safeParse(body);
  return read.success
    ? read.data.endpoints
        .map(({ key }) => key)
        .join(', ')
        .slice(0, 300)
    : '';
};
const addressOf = ({ body }: { body: unknown }): string => {
  const read = z.object({ document: z.object({ address: z.string().max(1000) }) }).safeParse(body);
  // somebody may have put a password into an address
  return read.success ? read.data.document.address.replace(/\/\/[^/@]*@/, '//').slice(0, 300) : '';
};

@Controller('api')
export class SourcesController {
  constructor(
    private readonly connections: ConnectionsService,
    private readonly endpointAnswers: EndpointAnswersService,
    private readonly given: GivenService,
    private readonly sheets: EndpointSheetService,
    private readonly scouts: ScoutsService,
    private readonly podPorts: PodPortsService,
    private readonly samples: SamplesService,
    private readonly compaction: CompactionService,
    private readonly space: SpaceService,
    private readonly removal: RemovalService,
    private readonly intervals: IntervalsService,
    private readonly clock: Clock,
  ) {}

  @Get('sources')
  sources(@Seen() reach: Reach): SourcesAnswer {
    return {
      at: this.clock.now(),
      connections: this.connections.list(reach),
      endpoints: this.endpointAnswers.list(reach),
      store: { ...this.samples.status, packing: this.compaction.problem, space: this.space.space },
    };
  }

  // ---- one endpoint -----------------------------------------------------------------------------------------------

  @Get('endpoints/:id/page')
  page(@Param('id', { schema: RowNumber }) id: number, @Seen() reach: Reach) {
    return this.endpointAnswers.rawPage(reach, id);
  }
  @Get('endpoints/:id/history')
  history(@Param('id', { schema: RowNumber }) id: number, @Seen() reach: Reach): Promise<HistoryAnswer> {
    return this.sheets.history(reach, id);
  }
  @Get('endpoints/:id/metrics')
  metrics(
    @Param('id', { schema: RowNumber }) id: number,
    @Query({ schema: MetricsQuery }) { find }: z.infer<typeof MetricsQuery>,
    @Seen() reach: Reach,
  ): Promise<MetricsAnswer> {
    return this.sheets.metrics(reach, id, find);
  }

  @Get('endpoints/:id/series')
  series(
    @Param('id', { schema: RowNumber }) id: number,
    @Query({ schema: SeriesQuery }) { metric }: z.infer<typeof SeriesQuery>,
    @Seen() reach: Reach,
  ): SeriesAnswer {
    return this.sheets.series(reach, id, metric);
  }
  @Administrators()
  @Get('endpoints/:id/dependants')
  dependants(@Param('id', { schema: RowNumber }) id: number): Promise<DependantsAnswer> {
    return this.removal.dependants(id);
  }
  @Administrators()
  @Audited('remove an endpoint for good', numbered)
  @Delete('endpoints/:id')
  @HttpCode(204)
  removeEndpoint(@Param('id', { schema: RowNumber }) id: number, @Req() { who }: KnownRequest): Promise<void> {
    return this.removal.remove(who, id);
  }
  @Administrators()
  @Get('intervals')
  listIntervals(): IntervalsAnswer {
    return this.intervals.answer();
  }
  @Administrators()
  @Audited('say how often is read')
  @Put('intervals')
  saveIntervals(
    @Body({ schema: IntervalsDocument }) document: IntervalsDocument,
    @Req() { who }: KnownRequest,
  ): Promise<IntervalsAnswer> {
    return this.intervals.save(who, document);
  }

  /** It makes requests inside the cluster: for those who may operate the namespace. */
  @Audited('ask a pod’s ports', named('pod'))
  @Post('pods/ports')
  @HttpCode(200)
  ports(@Body({ schema: PodPortsInput }) input: PodPortsInput, @Seen() reach: Reach): Promise<PodPortsAnswer> {
    return this.podPorts.ask(reach, input);
  }

  // ---- given by address -------------------------------------------------------------------------------------------

  @Administrators()
  @Get('given')
  listGiven(): { given: GivenAnswer[] } {
    return { given: this.given.list() };
  }
  @Administrators()
  @Audited('try an endpoint', addressOf)
  @Post('given/try')
  @HttpCode(200)
  try(@Body({ schema: TryInput }) input: TryInput): Promise<TryAnswer> {
    return this.given.try(input);
  }
  @Administrators()
  @Audited('add endpoints', namesOf)
  @Post('given')
  async add(@Body({ schema: EndpointsInput }) input: EndpointsInput, @Req() { who }: KnownRequest) {
    return { given: await this.given.add(who, input) };
  }
  @Administrators()
  @Audited('change an endpoint', keyed)
  @Put('given/:key')
  change(
    @Param('key', { schema: SourceKey }) key: string,
    @Body({ schema: EndpointInput }) input: EndpointInput,
    @Req() { who }: KnownRequest,
  ): Promise<GivenAnswer> {
    return this.given.change(who, key, input);
  }
  @Administrators()
  @Audited('pause, resume, retire or restore an endpoint', keyed)
  @Put('given/:key/use')
  use(
    @Param('key', { schema: SourceKey }) key: string,
    @Body({ schema: UseInput }) { use }: z.infer<typeof UseInput>,
    @Req() { who }: KnownRequest,
  ): Promise<GivenAnswer> {
    return this.given.use(who, key, use);
  }

  // ---- scouts -----------------------------------------------------------------------------------------------------

  @Administrators()
  @Get('scouts')
  listScouts(): ScoutsAnswer {
    return { scouts: this.scouts.list() };
  }
  @Administrators()
  @Audited('preview a scout')
  @Post('scouts/preview')
  @HttpCode(200)
  preview(@Body({ schema: ScoutPreviewInput }) { document, key }: z.infer<typeof ScoutPreviewInput>): ScoutPreview {
    return this.scouts.preview(document, key);
  }
  @Administrators()
  @Audited('move pages between scouts', (request) => `${named('from')(request)} to ${keyed(request)}`)
  @Post('scouts/:key/take')
  @HttpCode(200)
  async take(
    @Param('key', { schema: SourceKey }) key: string,
    @Body({ schema: ScoutTake }) { from }: z.infer<typeof ScoutTake>,
    @Req() { who }: KnownRequest,
  ): Promise<ScoutsAnswer> {
    await this.scouts.take(who, key, from);
    return this.listScouts();
  }
  @Administrators()
  @Get('scouts/:key/dependants')
  scoutDependants(@Param('key', { schema: SourceKey }) key: string): ScoutDependants {
    return this.scouts.dependants(key);
  }
  @Administrators()
  @Audited('make or change a scout', keyed)
  @Put('scouts/:key')
  async save(
    @Param('key', { schema: SourceKey }) key: string,
    @Body({ schema: ScoutInput }) input: ScoutInput,
    @Req() { who }: KnownRequest,
  ): Promise<ScoutsAnswer> {
    await this.scouts.save(who, key, input);
    return this.listScouts();
  }
  @Administrators()
  @Audited('remove a scout', keyed)
  @Delete('scouts/:key')
  @HttpCode(204)
  remove(@Param('key', { schema: SourceKey }) key: string, @Req() { who }: KnownRequest): Promise<void> {
    return this.scouts.remove(who, key);
  }
}
