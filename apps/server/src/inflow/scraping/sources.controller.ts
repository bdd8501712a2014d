import { Body, Controller, Delete, Get, HttpCode, Param, Post, Put, Query, Req } from '@nestjs/common';
import {
  type DependantsAnswer,
  EndpointInput,
  EndpointsInput,
  type GivenAnswer,
  type HistoryAnswer,
  type MetricsAnswer,
  MetricsQuery,
  type PodPortsAnswer,
  PodPortsInput,
  RowNumber,
  ScoutDocument,
  ScoutInput,
  type ScoutPreview,
  type ScoutsAnswer,
  SourceKey,
  type SourcesAnswer,
  type TryAnswer,
  TryInput,
  UseInput,
} from '@zetopsis/contract';
import { Reach } from '@zetopsis/core/access';
import { z } from 'zod';
import { Audited, keyed, named } from '../../ground/guard/action.ts';
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
import { PodPortsService } from './podPorts.service.ts';
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
  @Administrators()
  @Get('given/:key/dependants')
  dependants(@Param('key', { schema: SourceKey }) key: string): Promise<DependantsAnswer> {
    return this.given.dependants(key);
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
  preview(@Body({ schema: ScoutDocument }) document: ScoutDocument): ScoutPreview {
    return this.scouts.preview(document);
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
