import { Global, Module } from '@nestjs/common';
import { AuditController } from './audit.controller.ts';
import { AuditInterceptor } from './audit.interceptor.ts';
import { AuditService } from './audit.service.ts';
import { AuditStore } from './audit.store.ts';

/** Every capability may note what it did. */
@Global()
@Module({
  controllers: [AuditController],
  providers: [AuditStore, AuditService, AuditInterceptor],
  exports: [AuditService, AuditInterceptor],
})
export class AuditModule {}
