import { Module } from '@nestjs/common';
import { FollowingModule } from '../../inflow/following/following.module.ts';
import { PushModule } from '../../inflow/push/push.module.ts';
import { KeptRecordsModule } from '../../keeping/records/keptRecords.module.ts';
import { RecordsController } from './records.controller.ts';
import { RecordsService } from './records.service.ts';

@Module({
  imports: [FollowingModule, KeptRecordsModule, PushModule],
  controllers: [RecordsController],
  providers: [RecordsService],
})
export class RecordsModule {}
