CREATE TABLE `standing_orders` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`definition` text NOT NULL,
	`state` text NOT NULL,
	`why` text DEFAULT '' NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL,
	`last_day` integer
);
--> statement-breakpoint
CREATE TABLE `standing_runs` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`standing_order` integer NOT NULL,
	`at` integer NOT NULL,
	`day` integer NOT NULL,
	`outcome` text NOT NULL,
	`moves` integer NOT NULL,
	`changes` integer NOT NULL,
	`spend` integer NOT NULL,
	`left` integer NOT NULL,
	`note` text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE INDEX `standing_runs_by_order` ON `standing_runs` (`standing_order`);