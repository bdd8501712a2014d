import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { LiveModule } from '../../ground/live/live.module.ts';
import { CompactionService } from './compaction.service.ts';
import { DatabaseTroubles } from './databaseTroubles.ts';
import { ExemplarsService } from './exemplars.service.ts';
import { JournalQueue } from './journalQueue.ts';
import { LeaseService } from './lease.service.ts';
import { NewestReadings } from './newestReadings.ts';
import { SampleStore } from './sample.store.ts';
import { SamplesService } from './samples.service.ts';
import { SeriesNumbers } from './seriesNumbers.ts';
import { SpaceService } from './space.service.ts';
import { StoreLimits } from './storeLimits.ts';
import { StoreWorkers } from './storeWorkers.service.ts';

@Module({
  imports: [ConfigurationModule, LiveModule],
  providers: [
    DatabaseTroubles,
    JournalQueue,
    NewestReadings,
    StoreLimits,
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
    JournalQueue,
    NewestReadings,
    StoreLimits,
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
