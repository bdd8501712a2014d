import { Controller, Get, Query, Req } from '@nestjs/common';
import {
  AgainstQuery,
  type By,
  ByQuery,
  type LogAnswer,
  LogQuery,
  type OperationsAnswer,
  OperationsQuery,
  OtherQuery,
  ScopeQuery,
  type SheetAnswer,
  type TableAnswer,
  TableQuery,
  type TapeAnswer,
  type UsageAnswer,
  type VersionsAnswer,
  WindowQuery,
} from '@zetopsis/contract';
import type { Reach } from '@zetopsis/core/access';
import type { z } from 'zod';
import { Seen } from '../../ground/guard/reached.ts';
import type { KnownRequest } from '../../ground/guard/route.ts';
import { ColumnsService } from './columns.service.ts';
import { OperationsService } from './operations.service.ts';
import { SheetsService } from './sheets.service.ts';
import { TapeService } from './tape.service.ts';

@Controller('api/usage')
export class UsageController {
  constructor(
    private readonly usage: ColumnsService,
    private readonly sheets: SheetsService,
    private readonly tapes: TapeService,
    private readonly operations: OperationsService,
  ) {}

  @Get()
  columns(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Query({ schema: AgainstQuery }) { shift }: AgainstQuery,
    @Query({ schema: ByQuery }) { by }: { by: By },
    @Query({ schema: OtherQuery }) { of }: z.infer<typeof OtherQuery>,
    @Seen() reach: Reach,
  ): Promise<UsageAnswer> {
    return this.usage.columns(reach, { scope, window, shift, by, of });
  }
  @Get('table')
  table(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Query({ schema: TableQuery }) rows: z.infer<typeof TableQuery>,
    @Seen() reach: Reach,
  ): Promise<TableAnswer> {
    return this.usage.table({ reach, scope, query: window, z: rows });
  }
  @Get('object')
  object(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Query({ schema: AgainstQuery }) { shift }: AgainstQuery,
    @Seen() reach: Reach,
  ): Promise<SheetAnswer> {
    return this.sheets.sheet({ reach, path: scope.in, query: window, shift });
  }
  @Get('operations')
  operated(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Query({ schema: AgainstQuery }) { shift }: AgainstQuery,
    @Query({ schema: OperationsQuery }) { target }: OperationsQuery,
    @Seen() reach: Reach,
  ): Promise<OperationsAnswer> {
    return this.operations.operations({ reach, path: scope.in, query: window, shift, target });
  }
  @Get('log')
  log(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: LogQuery }) asked: z.infer<typeof LogQuery>,
    @Seen() reach: Reach,
  ): Promise<LogAnswer> {
    return this.sheets.log(reach, scope.in, asked);
  }
  @Get('versions')
  versions(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Seen() reach: Reach,
  ): Promise<VersionsAnswer> {
    return this.sheets.versions(reach, scope.in, window);
  }
  @Get('tape')
  tape(
    @Query({ schema: ScopeQuery }) scope: ScopeQuery,
    @Query({ schema: WindowQuery }) window: WindowQuery,
    @Seen() reach: Reach,
    @Req() { person }: KnownRequest,
  ): Promise<TapeAnswer> {
    return this.tapes.tape({ reach, person }, scope, window);
  }
}
