ALTER TABLE `workspace` ADD `tax_rate` real DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `workspace` ADD `prices_with_tax` integer DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE `workspace` ADD `costs_with_tax` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `workspace` ADD `fees_with_tax` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `feeds` ADD `attempt` text;--> statement-breakpoint
UPDATE `feeds` SET `reading` = json_set(json_remove(`reading`, '$.sheet', '$.headerBelow'), '$.part', json_extract(`reading`, '$.sheet'), '$.headerRow', NULL) WHERE `reading` IS NOT NULL;
