CREATE TABLE `window_facts` (
	`import` integer NOT NULL,
	`kind` text NOT NULL,
	`from_day` integer NOT NULL,
	`to_day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`b` integer NOT NULL,
	`c` integer NOT NULL,
	`d` integer NOT NULL,
	`impressions` integer DEFAULT 0 NOT NULL,
	`clicks` integer DEFAULT 0 NOT NULL,
	`cost` integer DEFAULT 0 NOT NULL,
	`orders` integer DEFAULT 0 NOT NULL,
	`units` integer DEFAULT 0 NOT NULL,
	`revenue` integer DEFAULT 0 NOT NULL
);
--> statement-breakpoint
CREATE INDEX `window_facts_by_kind` ON `window_facts` (`kind`,`from_day`);--> statement-breakpoint
ALTER TABLE `report_rows` ADD `last_day` integer DEFAULT 0 NOT NULL;