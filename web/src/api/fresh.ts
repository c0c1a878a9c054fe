import { QueryClient, type InvalidateOptions, type InvalidateQueryFilters, type QueryKey } from "@tanstack/react-query";

/**
 * A client whose answers are never older than the change that asked for them. The library joins a first request that is
 * still under way; its answer may have been made before the change, and would then be shown as the newest.
 */
export class FreshClient extends QueryClient {
  override async invalidateQueries<Key extends QueryKey = QueryKey>(filters?: InvalidateQueryFilters<Key>, options?: InvalidateOptions) {
    await this.cancelQueries(filters);
    await super.invalidateQueries(filters, options);
  }
}
