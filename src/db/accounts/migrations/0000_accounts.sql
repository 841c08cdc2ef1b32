CREATE TABLE `access_log` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at` integer NOT NULL,
	`who` text NOT NULL,
	`what` text NOT NULL,
	`workspace` text,
	`from` text NOT NULL
);
--> statement-breakpoint
CREATE INDEX `access_by_time` ON `access_log` (`at`);--> statement-breakpoint
CREATE TABLE `invitations` (
	`hash` text PRIMARY KEY NOT NULL,
	`id` text NOT NULL,
	`person` text,
	`email` text,
	`workspace` text,
	`role` text,
	`makes_founder` integer DEFAULT false NOT NULL,
	`created_by` text NOT NULL,
	`expires_at` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `invitations_id_unique` ON `invitations` (`id`);--> statement-breakpoint
CREATE TABLE `people` (
	`id` text PRIMARY KEY NOT NULL,
	`email` text NOT NULL,
	`name` text NOT NULL,
	`password_hash` text NOT NULL,
	`code_secret` text,
	`code_step` integer,
	`is_founder` integer DEFAULT false NOT NULL,
	`created_at` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `people_email_unique` ON `people` (`email`);--> statement-breakpoint
CREATE TABLE `roles` (
	`person` text NOT NULL,
	`workspace` text NOT NULL,
	`role` text NOT NULL,
	PRIMARY KEY(`person`, `workspace`)
);
--> statement-breakpoint
CREATE TABLE `sessions` (
	`hash` text PRIMARY KEY NOT NULL,
	`id` text NOT NULL,
	`person` text NOT NULL,
	`created_at` integer NOT NULL,
	`seen_at` integer NOT NULL,
	`proved_at` integer NOT NULL,
	`agent` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `sessions_id_unique` ON `sessions` (`id`);--> statement-breakpoint
CREATE INDEX `sessions_of_person` ON `sessions` (`person`);--> statement-breakpoint
CREATE TABLE `tokens` (
	`hash` text PRIMARY KEY NOT NULL,
	`id` text NOT NULL,
	`name` text NOT NULL,
	`workspace` text NOT NULL,
	`role` text NOT NULL,
	`created_by` text NOT NULL,
	`created_at` integer NOT NULL,
	`expires_at` integer NOT NULL,
	`used_at` integer
);
--> statement-breakpoint
CREATE UNIQUE INDEX `tokens_id_unique` ON `tokens` (`id`);