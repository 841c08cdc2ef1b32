CREATE TABLE `account_state` (
	`id` integer PRIMARY KEY NOT NULL,
	`version` integer NOT NULL,
	`records_version` integer NOT NULL,
	`part` integer NOT NULL,
	`sealed_part` integer,
	`sealed_by` text
);
--> statement-breakpoint
DROP INDEX `basket_key_unique`;--> statement-breakpoint
ALTER TABLE `basket` ADD `part` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `basket` ADD `who` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `basket` ADD `version` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE UNIQUE INDEX `basket_by_key` ON `basket` (`key`,`part`);--> statement-breakpoint
ALTER TABLE `jobs` ADD `who` text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE `planograms` ADD `last_plan` blob;--> statement-breakpoint
ALTER TABLE `planograms` ADD `waiting_plan` blob;--> statement-breakpoint
ALTER TABLE `planograms` ADD `waiting_part` integer;--> statement-breakpoint
ALTER TABLE `records` ADD `version` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `dispatches` ADD `who` text DEFAULT '' NOT NULL;
--> statement-breakpoint
INSERT INTO `account_state` (`id`, `version`, `records_version`, `part`) VALUES (1, 1, 1, 1);--> statement-breakpoint
-- Splits know a shelf by its value from now on; what was sent so far knows it by its name.
UPDATE `shelf_sets` SET `definition` = json_set(`definition`, '$.tiers', (SELECT json_group_array(json(json_set(`value`, '$.value', json_extract(`value`, '$.name')))) FROM json_each(`definition`, '$.tiers')));
