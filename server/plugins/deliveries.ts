import { recoverDeliveries } from '../utils/deliveries'

/** Deliveries that were cut off go on when the server is back. */
export default defineNitroPlugin(() => {
  recoverDeliveries().catch((error: Error) => console.error(`Deliveries could not be taken up again: ${error.message}`))
})
