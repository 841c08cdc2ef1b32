CREATE TABLE `derived_fields` (
	`key` text PRIMARY KEY NOT NULL,
	`position` integer NOT NULL,
	`definition` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `item_costs` (
	`item_id` text PRIMARY KEY NOT NULL,
	`cost` integer,
	`fee` integer
);
--> statement-breakpoint
CREATE TABLE `link_checks` (
	`item_id` text PRIMARY KEY NOT NULL,
	`link` text NOT NULL,
	`checked_at` integer NOT NULL,
	`state` text NOT NULL,
	`detail` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `lookup_lists` (
	`key` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`rows` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `notes` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`kind` text NOT NULL,
	`key` text NOT NULL,
	`text` text NOT NULL,
	`at` integer NOT NULL,
	`who` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `notes_by_key` ON `notes` (`kind`,`key`);--> statement-breakpoint
CREATE TABLE `refresh_changes` (
	`revision` integer NOT NULL,
	`item_no` integer NOT NULL,
	`kind` text NOT NULL,
	`fields` integer NOT NULL,
	PRIMARY KEY(`revision`, `item_no`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `saved_views` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`screen` text NOT NULL,
	`name` text NOT NULL,
	`state` text NOT NULL
);
--> statement-breakpoint
ALTER TABLE `workspace` ADD `proposed_families` integer DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE `feeds` ADD `reading` text;--> statement-breakpoint
ALTER TABLE `feeds` ADD `source` text;--> statement-breakpoint
ALTER TABLE `feeds` ADD `schedule` text;--> statement-breakpoint
ALTER TABLE `feeds` ADD `next_at` integer;--> statement-breakpoint
ALTER TABLE `feeds` ADD `version` text;--> statement-breakpoint
ALTER TABLE `feeds` ADD `looked_at` integer;--> statement-breakpoint
ALTER TABLE `feeds` ADD `trouble` text;--> statement-breakpoint
ALTER TABLE `revisions` ADD `reading` integer;--> statement-breakpoint
ALTER TABLE `revisions` ADD `mapping` text;--> statement-breakpoint
ALTER TABLE `revisions` ADD `aliases` text;--> statement-breakpoint
ALTER TABLE `revisions` ADD `findings` text;