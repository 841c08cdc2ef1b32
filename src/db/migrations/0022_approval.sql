ALTER TABLE `workspace` ADD `approval` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `workspace` ADD `approved_version` integer;--> statement-breakpoint
ALTER TABLE `workspace` ADD `approved_by` text;--> statement-breakpoint
ALTER TABLE `workspace` ADD `approved_at` integer;