import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { PushModule } from '../../inflow/push/push.module.ts';
import { KeptRecordsModule } from '../../keeping/records/keptRecords.module.ts';
import { OwnersModule } from '../owners/owners.module.ts';
import { MasksController } from './masks.controller.ts';
import { MasksService } from './masks.service.ts';

@Module({
  imports: [ConfigurationModule, KeptRecordsModule, OwnersModule, PushModule],
  controllers: [MasksController],
  providers: [MasksService],
})
export class MasksModule {}
