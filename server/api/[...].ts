/** Whatever no route of the interface answers: an address that is not there, or a method that it does not take. */
export default defineEventHandler(() => refuse(404, 'There is nothing at this address that answers to this.'))
