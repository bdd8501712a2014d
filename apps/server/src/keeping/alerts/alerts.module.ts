import { Module } from '@nestjs/common';
import { TypeOrmModule } from '@nestjs/typeorm';
import { ConfigurationModule } from '../../ground/configuration/configuration.module.ts';
import { OutboxModule } from '../outbox/outbox.module.ts';
import { StoreModule } from '../store/store.module.ts';
import { AlertStore } from './alert.store.ts';
import { AlertsService } from './alerts.service.ts';
import { RuleEntity } from './rule.entity.ts';

/** What is kept of rules and alerts; judging stands in the uppermost storey. */
@Module({
  imports: [TypeOrmModule.forFeature([RuleEntity]), ConfigurationModule, OutboxModule, StoreModule],
  providers: [AlertsService, AlertStore],
  exports: [AlertsService, TypeOrmModule],
})
export class AlertsModule {}
