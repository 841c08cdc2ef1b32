CREATE TABLE `change_log` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at` integer NOT NULL,
	`who` text NOT NULL,
	`what` text NOT NULL,
	`why` text NOT NULL,
	`place` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `workspace` (
	`id` integer PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`currency` text NOT NULL,
	`time_zone` text NOT NULL,
	`goal` real NOT NULL,
	`most_loss` real NOT NULL,
	`market_seed` text NOT NULL,
	`created_at` integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE `jobs` (
	`id` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`input` text NOT NULL,
	`state` text NOT NULL,
	`done` integer DEFAULT 0 NOT NULL,
	`total` integer,
	`unit` text DEFAULT '' NOT NULL,
	`result` text,
	`error` text,
	`cancel_asked` integer DEFAULT false NOT NULL,
	`attempts` integer DEFAULT 0 NOT NULL,
	`runner` text,
	`heartbeat` integer,
	`created_at` integer NOT NULL,
	`ended_at` integer
);
--> statement-breakpoint
CREATE INDEX `jobs_by_state` ON `jobs` (`state`,`created_at`);--> statement-breakpoint
CREATE TABLE `catalogue_columns` (
	`revision` integer NOT NULL,
	`name` text NOT NULL,
	`digest` text NOT NULL,
	`data` blob NOT NULL,
	PRIMARY KEY(`revision`, `name`)
);
--> statement-breakpoint
CREATE TABLE `feeds` (
	`key` text PRIMARY KEY NOT NULL,
	`file_name` text NOT NULL,
	`mapping` text NOT NULL,
	`current_revision` integer,
	`read_at` integer
);
--> statement-breakpoint
CREATE TABLE `items` (
	`item_no` integer NOT NULL,
	`from_rev` integer NOT NULL,
	`to_rev` integer,
	`item_id` text NOT NULL,
	`title` text NOT NULL,
	`price` integer NOT NULL,
	`warnings` integer NOT NULL,
	`cells` text NOT NULL,
	PRIMARY KEY(`item_no`, `from_rev`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `revisions` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`feed` text NOT NULL,
	`job` text NOT NULL,
	`started_at` integer NOT NULL,
	`finished_at` integer,
	`headings` text,
	`counts` text,
	`columns` text,
	`notices` text
);
--> statement-breakpoint
CREATE TABLE `set_aside` (
	`revision` integer NOT NULL,
	`row` integer NOT NULL,
	`faults` integer NOT NULL,
	`cells` text NOT NULL,
	PRIMARY KEY(`revision`, `row`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `shelf_sets` (
	`key` text PRIMARY KEY NOT NULL,
	`definition` text NOT NULL,
	`members` blob,
	`computed_at` integer,
	`computed_to` integer
);
--> statement-breakpoint
CREATE TABLE `planograms` (
	`key` text PRIMARY KEY NOT NULL,
	`definition` text NOT NULL,
	`saved_at` integer NOT NULL,
	`applied_at` integer
);
--> statement-breakpoint
CREATE TABLE `records` (
	`key` text PRIMARY KEY NOT NULL,
	`type` text NOT NULL,
	`body` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `basket` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`key` text NOT NULL,
	`before` text,
	`after` text,
	`source` text NOT NULL,
	`reason` text NOT NULL,
	`at` integer NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `basket_key_unique` ON `basket` (`key`);--> statement-breakpoint
CREATE TABLE `dispatch_changes` (
	`dispatch` integer NOT NULL,
	`key` text NOT NULL,
	`before` text,
	`after` text,
	PRIMARY KEY(`dispatch`, `key`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE INDEX `changes_by_key` ON `dispatch_changes` (`key`);--> statement-breakpoint
CREATE TABLE `dispatches` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`job` text NOT NULL,
	`state` text NOT NULL,
	`created_at` integer NOT NULL,
	`sent_at` integer,
	`from_day` integer,
	`size` integer NOT NULL,
	`words` text NOT NULL,
	`takes_back` integer,
	`taken_back_by` integer
);
--> statement-breakpoint
CREATE TABLE `campaign_days` (
	`day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`budget` integer NOT NULL,
	`cost` integer NOT NULL,
	`dry_at` real,
	PRIMARY KEY(`day`, `campaign`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `codes` (
	`no` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`kind` text NOT NULL,
	`text` text NOT NULL
);
--> statement-breakpoint
CREATE UNIQUE INDEX `codes_by_text` ON `codes` (`kind`,`text`);--> statement-breakpoint
CREATE TABLE `day_rollups` (
	`day` integer PRIMARY KEY NOT NULL,
	`ads` blob NOT NULL,
	`store` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `facts` (
	`day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`ad_group` integer NOT NULL,
	`item_no` integer NOT NULL,
	`target` integer NOT NULL,
	`term` integer NOT NULL,
	`slot` integer NOT NULL,
	`impressions` integer NOT NULL,
	`clicks` integer NOT NULL,
	`cost` integer NOT NULL,
	`orders` integer NOT NULL,
	`units` integer NOT NULL,
	`revenue` integer NOT NULL,
	PRIMARY KEY(`day`, `campaign`, `ad_group`, `item_no`, `target`, `term`, `slot`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `placement_facts` (
	`day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`placement` integer NOT NULL,
	`impressions` integer NOT NULL,
	PRIMARY KEY(`day`, `campaign`, `placement`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `span_rollups` (
	`from_day` integer PRIMARY KEY NOT NULL,
	`ads` blob NOT NULL,
	`store` blob NOT NULL
);
--> statement-breakpoint
CREATE TABLE `store_sales` (
	`day` integer NOT NULL,
	`item_no` integer NOT NULL,
	`orders` integer NOT NULL,
	`units` integer NOT NULL,
	`revenue` integer NOT NULL,
	PRIMARY KEY(`day`, `item_no`)
) WITHOUT ROWID;
--> statement-breakpoint
CREATE TABLE `market_state` (
	`id` integer PRIMARY KEY NOT NULL,
	`day` integer NOT NULL,
	`learned` text NOT NULL
);
