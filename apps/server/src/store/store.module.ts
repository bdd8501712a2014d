import { Module } from '@nestjs/common';
import { LiveModule } from '../live/live.module.ts';
import { CompactionService } from './compaction.service.ts';
import { ExemplarsService } from './exemplars.service.ts';
import { LeaseService } from './lease.service.ts';
import { SampleStore } from './sample.store.ts';
import { SamplesService } from './samples.service.ts';
import { SeriesNumbers } from './seriesNumbers.ts';
import { SpaceService } from './space.service.ts';
import { StoreWorkers } from './storeWorkers.service.ts';

@Module({
  imports: [LiveModule],
  providers: [
    LeaseService,
    SampleStore,
    SeriesNumbers,
    StoreWorkers,
    SamplesService,
    CompactionService,
    SpaceService,
    ExemplarsService,
  ],
  exports: [
    ExemplarsService,
    LeaseService,
    SampleStore,
    SamplesService,
    SeriesNumbers,
    StoreWorkers,
    CompactionService,
    SpaceService,
  ],
})
export class StoreModule {}
