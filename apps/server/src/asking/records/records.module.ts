import { Module } from '@nestjs/common';
import { KeptRecordsModule } from '../../keeping/records/keptRecords.module.ts';
import { RecordsController } from './records.controller.ts';
import { RecordsService } from './records.service.ts';

@Module({ imports: [KeptRecordsModule], controllers: [RecordsController], providers: [RecordsService] })
export class RecordsModule {}
