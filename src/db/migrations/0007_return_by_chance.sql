-- The set people start from: items by the chance that they truly reach the workspace's goal (core/shelves/shelf-set.ts).
INSERT INTO `shelf_sets` (`key`, `definition`)
SELECT 'return-by-chance', json_object(
  'key', 'return-by-chance', 'name', 'Return by chance', 'measure', 'probability', 'windowDays', 90, 'goal', `goal`,
  'leastClicks', 20, 'leastOrders', 3, 'margin', 0.1, 'patience', 3,
  'tiers', json('[{"key":"hot","name":"Hot","heat":"hot","least":0.9},{"key":"warm","name":"Warm","heat":"warm","least":0.7},{"key":"mild","name":"Mild","heat":"mild","least":0.3},{"key":"cool","name":"Cool","heat":"cool","least":0.1},{"key":"cold","name":"Cold","heat":"cold","least":null}]'))
FROM `workspace`
WHERE NOT EXISTS (SELECT 1 FROM `shelf_sets` WHERE `key` = 'return-by-chance');
