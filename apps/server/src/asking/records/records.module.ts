import { Module } from '@nestjs/common';
import { LinesModule } from '../../keeping/lines/lines.module.ts';
import { RecordsController } from './records.controller.ts';
import { RecordsService } from './records.service.ts';

@Module({ imports: [LinesModule], controllers: [RecordsController], providers: [RecordsService] })
export class RecordsModule {}
