// The page for signing in: a key of the device in place of a password. It is a page without the application.
const form = document.getElementById('passkey')
const can = typeof window.PublicKeyCredential?.parseRequestOptionsFromJSON === 'function'
if (form && can) {
  form.hidden = false
  const trouble = document.getElementById('passkey-trouble')
  form.addEventListener('submit', async (event) => {
    if (form.elements.answered.value) return
    event.preventDefault()
    trouble.hidden = true
    try {
      const asked = await fetch(form.dataset.begin, { method: 'POST', body: new FormData(form) })
      if (!asked.ok) throw new Error((await asked.json()).message)
      const publicKey = PublicKeyCredential.parseRequestOptionsFromJSON(await asked.json())
      const key = await navigator.credentials.get({ publicKey })
      form.elements.answered.value = JSON.stringify(key.toJSON())
      form.requestSubmit()
    } catch (error) {
      trouble.textContent =
        error.name === 'NotAllowedError' ? 'No key was chosen. Try again, or sign in by your password.' : error.message
      trouble.hidden = false
    }
  })
}
