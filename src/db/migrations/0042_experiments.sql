CREATE TABLE `experiment_days` (
	`experiment` integer NOT NULL,
	`day` integer NOT NULL,
	`is_tried` integer DEFAULT false NOT NULL,
	`stood` integer,
	PRIMARY KEY(`experiment`, `day`)
);
--> statement-breakpoint
CREATE TABLE `experiments` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`definition` text NOT NULL,
	`seed` text NOT NULL,
	`arms` text NOT NULL,
	`campaigns` text NOT NULL,
	`diff` text NOT NULL,
	`noise` text NOT NULL,
	`before_from` integer NOT NULL,
	`before_to` integer NOT NULL,
	`who` text NOT NULL,
	`at` integer NOT NULL,
	`ended_day` integer,
	`ended_how` text,
	`ended_by` text DEFAULT '' NOT NULL,
	`learned` text DEFAULT '' NOT NULL,
	`learned_by` text DEFAULT '' NOT NULL,
	`learned_at` integer,
	`looked_day` integer
);
