import { Module } from '@nestjs/common';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { RetentionController } from './retention.controller.ts';
import { RetentionService } from './retention.service.ts';
import { RetentionStore } from './retention.store.ts';

@Module({
  imports: [ConfigurationModule, StoreModule],
  controllers: [RetentionController],
  providers: [RetentionService, RetentionStore],
})
export class RetentionModule {}
