import { Module } from '@nestjs/common';
import { LiveModule } from '../../ground/live/live.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { LineStore } from './line.store.ts';
import { LineReader } from './lineReader.ts';
import { LinesService } from './lines.service.ts';

@Module({
  imports: [LiveModule, StoreModule],
  providers: [LineStore, LinesService, LineReader],
  exports: [LinesService, LineReader],
})
export class LinesModule {}
