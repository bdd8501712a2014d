import { Module } from '@nestjs/common';
import { LiveModule } from '../live/live.module.ts';
import { SampleStore } from './sample.store.ts';
import { SamplesService } from './samples.service.ts';

@Module({ imports: [LiveModule], providers: [SampleStore, SamplesService], exports: [SamplesService] })
export class StoreModule {}
