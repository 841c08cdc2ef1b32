CREATE TABLE `registry` (
	`position` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`slug` text NOT NULL,
	`making_since` integer
);
--> statement-breakpoint
CREATE UNIQUE INDEX `registry_slug_unique` ON `registry` (`slug`);--> statement-breakpoint
CREATE TABLE `tries` (
	`key` text PRIMARY KEY NOT NULL,
	`failures` integer NOT NULL,
	`until` integer NOT NULL
);
--> statement-breakpoint
ALTER TABLE `invitations` ADD `maker` text;--> statement-breakpoint
ALTER TABLE `tokens` ADD `maker` text;--> statement-breakpoint
UPDATE `tokens` SET `maker` = CASE (SELECT count(*) FROM `people` WHERE `name` = `created_by`) WHEN 0 THEN NULL WHEN 1 THEN (SELECT `id` FROM `people` WHERE `name` = `created_by`) ELSE '' END;
--> statement-breakpoint
UPDATE `invitations` SET `maker` = CASE (SELECT count(*) FROM `people` WHERE `name` = `created_by`) WHEN 0 THEN NULL WHEN 1 THEN (SELECT `id` FROM `people` WHERE `name` = `created_by`) ELSE '' END;
