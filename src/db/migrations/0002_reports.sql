CREATE TABLE `hour_facts` (
	`day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`hour` integer NOT NULL,
	`impressions` integer DEFAULT 0 NOT NULL,
	`clicks` integer DEFAULT 0 NOT NULL,
	`cost` integer DEFAULT 0 NOT NULL,
	`orders` integer DEFAULT 0 NOT NULL,
	`units` integer DEFAULT 0 NOT NULL,
	`revenue` integer DEFAULT 0 NOT NULL,
	PRIMARY KEY(`day`, `campaign`, `hour`)
);
--> statement-breakpoint
CREATE TABLE `item_facts` (
	`day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`ad_group` integer NOT NULL,
	`target` integer NOT NULL,
	`item_no` integer NOT NULL,
	`impressions` integer DEFAULT 0 NOT NULL,
	`clicks` integer DEFAULT 0 NOT NULL,
	`cost` integer DEFAULT 0 NOT NULL,
	`orders` integer DEFAULT 0 NOT NULL,
	`units` integer DEFAULT 0 NOT NULL,
	`revenue` integer DEFAULT 0 NOT NULL,
	PRIMARY KEY(`day`, `campaign`, `ad_group`, `target`, `item_no`)
);
--> statement-breakpoint
CREATE TABLE `order_arrivals` (
	`day` integer NOT NULL,
	`age` integer NOT NULL,
	`orders` integer NOT NULL,
	`revenue` integer NOT NULL,
	PRIMARY KEY(`day`, `age`)
);
--> statement-breakpoint
CREATE TABLE `report_aside` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`import` integer NOT NULL,
	`row` integer NOT NULL,
	`reason` text NOT NULL,
	`cells` text NOT NULL
);
--> statement-breakpoint
CREATE TABLE `report_imports` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`kind` text NOT NULL,
	`file_name` text NOT NULL,
	`at` integer NOT NULL,
	`job` text NOT NULL,
	`finished_at` integer,
	`from_day` integer,
	`to_day` integer,
	`mapping` text NOT NULL,
	`counts` text NOT NULL,
	`undone_at` integer
);
--> statement-breakpoint
CREATE TABLE `report_mappings` (
	`kind` text NOT NULL,
	`headings` text NOT NULL,
	`mapping` text NOT NULL,
	PRIMARY KEY(`kind`, `headings`)
);
--> statement-breakpoint
CREATE TABLE `report_units` (
	`import` integer NOT NULL,
	`day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`before` text NOT NULL,
	PRIMARY KEY(`import`, `day`, `campaign`)
);
--> statement-breakpoint
CREATE TABLE `slot_facts` (
	`day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`ad_group` integer NOT NULL,
	`slot` integer NOT NULL,
	`impressions` integer DEFAULT 0 NOT NULL,
	`clicks` integer DEFAULT 0 NOT NULL,
	`cost` integer DEFAULT 0 NOT NULL,
	`orders` integer DEFAULT 0 NOT NULL,
	`units` integer DEFAULT 0 NOT NULL,
	`revenue` integer DEFAULT 0 NOT NULL,
	PRIMARY KEY(`day`, `campaign`, `ad_group`, `slot`)
);
--> statement-breakpoint
CREATE TABLE `term_facts` (
	`day` integer NOT NULL,
	`campaign` integer NOT NULL,
	`ad_group` integer NOT NULL,
	`target` integer NOT NULL,
	`term` integer NOT NULL,
	`impressions` integer DEFAULT 0 NOT NULL,
	`clicks` integer DEFAULT 0 NOT NULL,
	`cost` integer DEFAULT 0 NOT NULL,
	`orders` integer DEFAULT 0 NOT NULL,
	`units` integer DEFAULT 0 NOT NULL,
	`revenue` integer DEFAULT 0 NOT NULL,
	PRIMARY KEY(`day`, `campaign`, `ad_group`, `target`, `term`)
);
--> statement-breakpoint
CREATE TABLE `term_rollups` (
	`day` integer PRIMARY KEY NOT NULL,
	`terms` blob NOT NULL
);
--> statement-breakpoint
ALTER TABLE `placement_facts` ADD `clicks` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `placement_facts` ADD `cost` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `placement_facts` ADD `orders` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `placement_facts` ADD `units` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE `placement_facts` ADD `revenue` integer DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE TABLE `__new_market_state` (
	`id` integer PRIMARY KEY NOT NULL,
	`day` integer NOT NULL,
	`learned` text,
	`state` text NOT NULL
);
--> statement-breakpoint
INSERT INTO `__new_market_state`("id", "day", "state") SELECT "id", "day", json_object('learned', json("learned"), 'carry', json('{}'), 'month', -1, 'pace', json('{}'), 'late', json('[]')) FROM `market_state`;--> statement-breakpoint
DROP TABLE `market_state`;--> statement-breakpoint
ALTER TABLE `__new_market_state` RENAME TO `market_state`;--> statement-breakpoint
INSERT INTO `item_facts` SELECT "day", "campaign", "ad_group", "target", "item_no", sum("impressions"), sum("clicks"), sum("cost"), sum("orders"), sum("units"), sum("revenue") FROM `facts` GROUP BY 1, 2, 3, 4, 5;--> statement-breakpoint
INSERT INTO `term_facts` SELECT "day", "campaign", "ad_group", "target", "term", sum("impressions"), sum("clicks"), sum("cost"), sum("orders"), sum("units"), sum("revenue") FROM `facts` GROUP BY 1, 2, 3, 4, 5;--> statement-breakpoint
INSERT INTO `slot_facts` SELECT "day", "campaign", "ad_group", "slot", sum("impressions"), sum("clicks"), sum("cost"), sum("orders"), sum("units"), sum("revenue") FROM `facts` GROUP BY 1, 2, 3, 4;
