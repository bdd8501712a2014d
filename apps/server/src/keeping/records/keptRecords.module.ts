import { Module } from '@nestjs/common';
import { LiveModule } from '../../ground/live/live.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { LineStore } from './line.store.ts';
import { LineReader } from './lineReader.ts';
import { LinesService } from './lines.service.ts';
import { TraceStore } from './trace.store.ts';
import { TraceReader } from './traceReader.ts';
import { TracesService } from './traces.service.ts';

@Module({
  imports: [LiveModule, StoreModule],
  providers: [LineStore, LinesService, LineReader, TraceStore, TracesService, TraceReader],
  exports: [LinesService, LineReader, TracesService, TraceReader],
})
export class KeptRecordsModule {}
