CREATE TABLE `alert_address` (
	`id` integer PRIMARY KEY NOT NULL,
	`url` text NOT NULL,
	`secret` text NOT NULL,
	`sends_alerts` integer NOT NULL,
	`sends_weeks` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `alert_looks` (
	`id` integer PRIMARY KEY NOT NULL,
	`at` integer NOT NULL,
	`day` integer
);
--> statement-breakpoint
CREATE TABLE `alert_messages` (
	`id` text PRIMARY KEY NOT NULL,
	`at` integer NOT NULL,
	`what` text NOT NULL,
	`body` text NOT NULL,
	`state` text NOT NULL,
	`tries` integer DEFAULT 0 NOT NULL,
	`next_at` integer NOT NULL,
	`note` text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE `alerts` (
	`kind` text PRIMARY KEY NOT NULL,
	`is_on` integer DEFAULT true NOT NULL,
	`limit` real,
	`state` text,
	`says` text DEFAULT '' NOT NULL,
	`since` integer,
	`aside` text,
	`aside_by` text
);
--> statement-breakpoint
CREATE TABLE `digests` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`from_day` integer NOT NULL,
	`at` integer NOT NULL,
	`made` text NOT NULL,
	`found` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `digests_by_week` ON `digests` (`from_day`);